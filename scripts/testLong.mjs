// npm run test:long: what takes too long for each change. Two fresh starts at once, every command of the
// README, and people at work in longer worlds. Each stage that fails is named; the last line counts them.
import { spawn } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { endingWithUs, freePort } from './lib/mariadb.mjs'
import { checkNode, failed, installPackages, root, say } from './lib/project.mjs'

const MINUTE = 60_000
/** A start on a busy machine, with its build and its demo. */
const START_MS = 15 * MINUTE

function launch(command, env = {}) {
  const [program, ...args] = endingWithUs(command)
  const child = spawn(program, args, {
    cwd: root,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  let output = ''
  const heard = []
  const hear = chunk => {
    output += chunk
    for (const listener of heard) listener()
  }
  child.stdout.on('data', hear)
  child.stderr.on('data', hear)
  const ended = new Promise(resolve => child.once('exit', resolve))
  /** Waits until it has said this; throws what it said when it ends without it. */
  const saying = words =>
    new Promise((resolve, reject) => {
      const look = () => {
        if (output.includes(words)) resolve()
      }
      heard.push(look)
      look()
      void ended.then(code => reject(new Error(`it ended with ${code}:\n${output.slice(-2000)}`)))
      setTimeout(() => reject(new Error(`not within time:\n${output.slice(-2000)}`)), START_MS).unref()
    })
  return { child, ended, saying, output: () => output }
}

async function run(...command) {
  const { ended, output } = launch(command)
  const code = await ended
  if (code !== 0) throw new Error(`it ended with ${code}:\n${output().slice(-2000)}`)
}
const script = (name, ...args) => run('npm', 'run', '-s', name, ...(args.length ? ['--', ...args] : []))

const newData = () => mkdtempSync(join(tmpdir(), 'bilancio-long-'))
async function start(data, ...args) {
  const port = await freePort()
  const app = launch([process.execPath, 'scripts/start.mjs', ...args], {
    BILANCIO_DATA: data,
    PORT: String(port),
    DATABASE_URL: '',
  })
  await app.saying('Bilancio is ready')
  return { ...app, port }
}
async function stop(app) {
  app.child.kill('SIGINT')
  const code = await app.ended
  if (code !== 0) throw new Error(`it stopped with ${code}:\n${app.output().slice(-2000)}`)
}

/** Both with the demo, on one checkout: neither minds the other. */
async function twoAtOnce() {
  const folders = [newData(), newData()]
  const since = Date.now()
  const apps = await Promise.all(folders.map(folder => start(folder)))
  say(`   both ready after ${Math.round((Date.now() - since) / 1000)} s`)
  for (const { port } of apps) {
    const answer = await fetch(`http://127.0.0.1:${port}/api/health`)
    if (answer.status !== 200) throw new Error(`port ${port} answers ${answer.status}`)
  }
  await Promise.all(apps.map(stop))
  return folders
}

async function verifyAndFresh([one, two]) {
  const env = { BILANCIO_DATA: one, DATABASE_URL: '' }
  const verified = launch(['npm', 'run', '-s', 'verify'], env)
  if ((await verified.ended) !== 0) throw new Error(verified.output())
  await stop(await start(two, '--fresh'))
  for (const folder of [one, two]) rmSync(folder, { recursive: true, force: true })
}

/** What calibrate writes is put back: the weights are a decision, not a test's. */
async function calibrate() {
  const file = join(root, 'core/banking/matching/weights.ts')
  const before = readFileSync(file)
  try {
    await script('calibrate')
  } finally {
    writeFileSync(file, before)
  }
}

const BENCH_PARTS = [...readFileSync(join(root, 'README.md'), 'utf8').matchAll(/`-- (\w+)`/g)]
  .map(m => m[1])
  .filter(part => part !== 'small')

async function stages() {
  let folders
  return [
    ['two fresh starts at once', async () => (folders = await twoAtOnce())],
    ['verify, and a start with --fresh', () => verifyAndFresh(folders)],
    ['bench -- small', () => script('bench', 'small')],
    ...BENCH_PARTS.map(part => [`bench -- small ${part}`, () => script('bench', 'small', part)]),
    ['calibrate', calibrate],
    ...[1, 2, 3].map(seed => [
      `simulate, seed ${seed}`,
      () => script('simulate', '--seed', String(seed), '--steps', '1500'),
    ]),
  ]
}

async function main() {
  checkNode()
  installPackages()
  const only = process.argv[2]
  let passed = 0
  let failures = 0
  for (const [name, work] of await stages()) {
    if (only && !name.includes(only)) continue
    const since = Date.now()
    try {
      await work()
      passed++
      say(`✓ ${name}, ${Math.round((Date.now() - since) / 1000)} s`)
    } catch (error) {
      failures++
      say(`✗ ${name}: ${error.message}`)
    }
  }
  say(`\n${passed} passed, ${failures} failed`)
  process.exitCode = failures || !passed ? 1 : 0
}

main().catch(failed)
