// What start, test and the other commands share: dependencies, build, one line for trouble. No dependencies
// of its own.
import { spawn, spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join, relative, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import { endingWithUs, oneAtATime, Trouble } from './mariadb.mjs'

export const root = resolve(dirname(fileURLToPath(import.meta.url)), '../..')
export const say = text => console.log(text)

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19))
    throw new Trouble(`Node.js ${process.versions.node} is too old: install 20.19 or newer`)
}

/** Another start of the same checkout waits, and finds it done. */
function prepare(what) {
  const checkout = createHash('sha256').update(root).digest('hex').slice(0, 12)
  const command = [process.execPath, join(root, 'scripts/lib/prepare.mjs'), what]
  const done = spawnSync(...oneAtATime(checkout, command), { cwd: root, stdio: 'inherit' })
  if (done.status !== 0) throw new Trouble(`${what} could not be made: see above`)
}

const mark = join(root, 'node_modules/.bilancio-lock')
function packagesThere() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  return { lock, there: existsSync(mark) && readFileSync(mark, 'utf8') === lock }
}

/** `npm ci` when the lock file is not the one installed. */
export function installPackages() {
  if (!packagesThere().there) prepare('packages')
}

/** What `prepare packages` does. */
export function installPackagesNow() {
  const { lock, there } = packagesThere()
  if (there) return
  say('Installing packages (npm ci)')
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], {
    cwd: root,
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  if (done.status !== 0) throw new Trouble('npm ci failed: see above')
  writeFileSync(mark, lock)
}

/** Every file below a path, in a fixed order. */
function filesBelow(path) {
  return statSync(path).isDirectory()
    ? readdirSync(path)
        .sort()
        .flatMap(name => filesBelow(join(path, name)))
    : [path]
}

/** The folder of the build of these very sources, made or not. */
function folderOfBuild() {
  const sources = [
    'app',
    'contract',
    'core',
    'formats',
    'server',
    'simulators',
    'public',
    'nuxt.config.ts',
    'package-lock.json',
  ]
    .map(p => join(root, p))
    .filter(existsSync)
  const hash = createHash('sha256')
  for (const file of sources.flatMap(filesBelow))
    hash.update(relative(root, file)).update('\0').update(readFileSync(file))
  return join(BUILDS, hash.digest('hex').slice(0, 16))
}

const BUILDS = join(root, '.output')
const isBuilt = folder => existsSync(join(folder, 'nitro.json'))

/**
 * Builds unless these very sources were built before; answers the folder of the build. Each state of the
 * sources has a folder of its own, so that a build for the tests leaves a running application alone.
 */
export function build() {
  const folder = folderOfBuild()
  if (!isBuilt(folder)) prepare('build')
  return folder
}

/** What `prepare build` does. */
export function buildNow() {
  const folder = folderOfBuild()
  if (isBuilt(folder)) return
  say('Building, about half a minute')
  const [program, ...args] = endingWithUs([
    process.execPath,
    join(root, 'node_modules/nuxt/bin/nuxt.mjs'),
    'build',
  ])
  const done = spawnSync(program, args, {
    cwd: root,
    encoding: 'utf8',
    maxBuffer: 64 * 1024 * 1024,
    env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1', BILANCIO_OUTPUT: folder },
  })
  if (done.status !== 0) {
    rmSync(folder, { recursive: true, force: true })
    throw new Trouble(`the build failed:\n${(done.stdout + done.stderr).split('\n').slice(-30).join('\n')}`)
  }
  // The last few are kept: one of them may be running.
  const old = readdirSync(BUILDS)
    .map(name => join(BUILDS, name))
    .sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs)
    .slice(4)
  for (const path of old) rmSync(path, { recursive: true, force: true })
}

/** Runs a TypeScript file of ours; answers its exit code. */
export function runTs(file, env, args = []) {
  return new Promise(done => {
    const child = spawn(process.execPath, ['--import', 'tsx', join(root, file), ...args], {
      cwd: root,
      stdio: 'inherit',
      env: { ...process.env, ...env },
    })
    child.once('exit', code => done(code ?? 1))
  })
}

/** Ends with one clear line for what the user can mend, a stack for what only we can. */
export function failed(error) {
  console.error(error instanceof Trouble ? error.message : error)
  process.exit(1)
}
