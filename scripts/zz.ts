import { simulate } from '/work/main/tests/simulation/run'
import { writeFileSync } from 'node:fs'
const t=setInterval(()=>{ console.error('tick', (globalThis as any).where) },3000)
simulate({seed:process.argv[2]??'1',steps:Number(process.argv[3]??30),isolation:(process.argv[4] as any)??'READ COMMITTED',atOnce:Number(process.argv[5]??3),tell:console.log}).then(r=>{console.log(JSON.stringify(r,null,1));process.exit()},e=>{console.error(e.message, e.name==='Error'?e.stack:'');process.exit(1)})
