// npm test: lint, types, unit and server tests, build, browser tests; the last line counts them all.
import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { has, installDebian, Trouble } from './lib/mariadb.mjs'
import { build, checkNode, failed, installPackages, root, say } from './lib/project.mjs'

const results = mkdtempSync(join(tmpdir(), 'bilancio-results-'))
const bin = name => join(root, 'node_modules/.bin', name)
/** What runs now; an interrupted run takes it along. */
const running = new Set()
function started(child) {
  running.add(child)
  child.once('exit', () => running.delete(child))
  return child
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.once(signal, () => {
    for (const child of running) child.kill(signal)
    rmSync(results, { recursive: true, force: true })
    process.exit(130)
  })
let passed = 0
let failures = 0

function stage(name, command, args, env = {}) {
  const since = Date.now()
  say(`\n== ${name}`)
  const child = started(
    spawn(command, args, {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', ...env },
    }),
  )
  return new Promise(resolve => {
    child.once('exit', code => {
      say(`== ${name}: ${code === 0 ? 'done' : 'FAILED'} in ${Math.round((Date.now() - since) / 1000)} s`)
      resolve(code === 0)
    })
  })
}

/**
 * A check without a count of its own counts as one; it runs beside the next stage and says what it found at
 * the end.
 */
function check(name, command, args) {
  const since = Date.now()
  const child = started(
    spawn(command, args, {
      cwd: root,
      env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' },
      stdio: ['ignore', 'pipe', 'pipe'],
    }),
  )
  let output = ''
  child.stdout.on('data', chunk => {
    output += chunk
  })
  child.stderr.on('data', chunk => {
    output += chunk
  })
  return new Promise(resolve => {
    child.once('exit', code => {
      say(
        `\n== ${name}\n${output.trim()}\n== ${name}: ${code === 0 ? 'done' : 'FAILED'} in ` +
          `${Math.round((Date.now() - since) / 1000)} s`,
      )
      if (code === 0) passed++
      else failures++
      resolve()
    })
  })
}

/**
 * Counts of a runner that wrote its results as JSON; a run that failed without a failed test counts as one
 * failure.
 */
function count(ok, file, read) {
  const counts = existsSync(file) ? read(JSON.parse(readFileSync(file, 'utf8'))) : { passed: 0, failed: 0 }
  passed += counts.passed
  failures += counts.failed
  if ((!ok && counts.failed === 0) || counts.passed + counts.failed === 0) failures++
}

async function main() {
  checkNode()
  installDebian('mariadbd', ['mariadb-server'], say)
  if (!has('chromium')) installDebian('chromium', ['chromium'], say)
  installDebian('pdftotext', ['poppler-utils'], say)
  installDebian('openssl', ['openssl'], say)
  // An IMAP server that is not ours, to read mail from.
  installDebian('dovecot', ['dovecot-imapd'], say)
  // Schemas of payment files that are not ours, and a checker of them.
  installDebian('xmllint', ['libxml2-utils'], say)
  const schemas = '/usr/share/java/hbci4j-core.jar'
  installDebian(schemas, ['libhbci4j-core-java'], say, existsSync(schemas))
  installPackages()
  const checks = check('Format', bin('prettier'), ['--check', '.'])
    .then(() => check('Lint', bin('eslint'), ['.', '--max-warnings', '0']))
    .then(() => check('Types', bin('tsc'), ['-p', 'tsconfig.check.json']))
    .then(() => check('Types of the interface and the routes', bin('nuxt'), ['typecheck']))
    .then(() =>
      check('Rules switched off are noticed, a few of them', process.execPath, [
        'scripts/mutate.mjs',
        ...['--rules', '--in', 'core/disputes', '--count', '3'],
      ]),
    )
  const jest = join(results, 'jest.json')
  count(await stage('Unit and server tests', bin('jest'), ['--json', `--outputFile=${jest}`]), jest, r => ({
    passed: r.numPassedTests,
    failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
  }))
  await checks
  say('\n== Build')
  try {
    build()
    passed++
  } catch (error) {
    failures++
    console.error(error instanceof Trouble ? error.message : error)
  }
  if (!failures || process.env.CI) {
    const e2e = join(results, 'e2e.json')
    count(await stage('Browser tests', bin('playwright'), ['test'], { PLAYWRIGHT_JSON: e2e }), e2e, r => ({
      passed: r.stats.expected,
      failed: r.stats.unexpected + r.stats.flaky + (r.errors?.length ?? 0),
    }))
  } else say('\nThe browser tests wait until the above is mended')
  rmSync(results, { recursive: true, force: true })
  say(`\n${passed} passed, ${failures} failed`)
  process.exitCode = failures || !passed ? 1 : 0
}

main().catch(failed)
