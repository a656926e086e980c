import type { Isolation } from '../server/db/connection'
import { simulate } from '../tests/simulation/run'

// npm run simulate -- --seed N --steps M [--isolation "REPEATABLE READ"] [--at-once K]
const args = process.argv.slice(2)
const option = (name: string, otherwise: string) => {
  const at = args.indexOf(`--${name}`)
  return at < 0 ? otherwise : (args[at + 1] ?? otherwise)
}
const isolations: Isolation[] = args.includes('--isolation')
  ? [option('isolation', '') as Isolation]
  : ['READ COMMITTED', 'REPEATABLE READ']
const steps = Number(option('steps', '1000'))
if (!Number.isInteger(steps) || steps < 1) {
  console.error('--steps is how many acts to play, such as 1000')
  process.exit(1)
}

const table = (of: Record<string, number>) =>
  Object.entries(of)
    .sort((a, b) => b[1] - a[1])
    .map(([what, n]) => `${what} ${n}`)
    .join(', ')

for (const isolation of isolations) {
  const seed = option('seed', '1')
  const atOnce = Number(option('at-once', '5'))
  try {
    const report = await simulate({ seed, steps, isolation, atOnce, tell: text => console.log(text) })
    console.log(
      `${isolation}: ${report.steps} steps in ${report.seconds.toFixed(0)} s, ` +
        `${(report.steps / report.seconds).toFixed(1)} a second; nothing found`,
    )
    console.log(`  took effect: ${table(report.done)}`)
    console.log(`  refused: ${table(report.refused)}`)
    console.log(`  faults: ${table(report.faults)}`)
  } catch (error) {
    console.error(`${isolation}: ${(error as Error).message}`)
    process.exitCode = 1
  }
}
process.exit()
