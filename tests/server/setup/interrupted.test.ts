import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'

const alive = (pid: number): boolean => {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}

/** Runs a database server as the tests do, and says its process. */
const RUNS = `
  import { prepareFolder, startMariadb } from './scripts/lib/mariadb.mjs'
  const folder = process.argv[1]
  const secrets = prepareFolder(folder)
  const server = await startMariadb(folder, secrets.database, { endsWithUs: true, say: () => {} })
  console.log('server ' + server.process.pid)
  setInterval(() => {}, 1000)
`

test.each(['SIGINT', 'SIGKILL'] as const)('a run that ends by %s leaves no database server', async signal => {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-interrupted-'))
  const run = spawn(process.execPath, ['--input-type=module', '-e', RUNS, folder], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const pid = await new Promise<number>((resolve, reject) => {
    run.stdout.on('data', (chunk: Buffer) => {
      const said = /server (\d+)/.exec(chunk.toString())
      if (said) resolve(Number(said[1]))
    })
    run.once('exit', code => reject(new Error(`it ended with ${code}`)))
  })
  expect(alive(pid)).toBe(true)
  run.kill(signal)
  for (let i = 0; i < 200 && alive(pid); i++) await sleep(100)
  expect(alive(pid)).toBe(false)
  rmSync(folder, { recursive: true, force: true })
})
