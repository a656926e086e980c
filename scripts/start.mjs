// npm start: from a fresh checkout to a running Bilancio. Needs nothing but Node and npm.
import { spawn } from 'node:child_process'
import { createSecureContext } from 'node:tls'
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { installDebian, portTaken, prepareFolder, startMariadb, stopOrphan, Trouble } from './lib/mariadb.mjs'
import { build, checkNode, failed, installPackages, root, runTs, say } from './lib/project.mjs'

const fresh = process.argv.includes('--fresh')
const dev = process.argv.includes('--dev')
const port = Number(process.env.PORT ?? 3000)
const data = resolve(root, process.env.BILANCIO_DATA ?? 'var')
const running = join(data, 'running.pid')
const listen = process.env.BILANCIO_LISTEN ?? '127.0.0.1'

function alreadyRunning() {
  if (!existsSync(running)) return false
  const pid = Number(readFileSync(running, 'utf8'))
  try {
    return pid !== process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs')
  } catch {
    return false
  }
}

/** A certificate of ours, by file; then browsers reach us by HTTPS only. */
function tls() {
  const { BILANCIO_TLS_CERT: cert, BILANCIO_TLS_KEY: key } = process.env
  if (!cert && !key) return {}
  if (!cert || !key) throw new Trouble('BILANCIO_TLS_CERT and BILANCIO_TLS_KEY go together: name both files')
  const read = (name, file) => {
    try {
      return readFileSync(file, 'utf8')
    } catch (error) {
      throw new Trouble(`${name}=${file} cannot be read: ${error.message}`)
    }
  }
  const [certificate, privateKey] = [read('BILANCIO_TLS_CERT', cert), read('BILANCIO_TLS_KEY', key)]
  try {
    createSecureContext({ cert: certificate, key: privateKey })
  } catch (error) {
    throw new Trouble(`the certificate ${cert} and the key ${key} do not fit: ${error.message}`)
  }
  return { NITRO_SSL_CERT: certificate, NITRO_SSL_KEY: privateKey, BILANCIO_HTTPS: '1' }
}

/** Without encryption passwords would cross the network for all to read. */
function checkListen() {
  const loopback = ['127.0.0.1', '::1', 'localhost'].includes(listen)
  const { BILANCIO_HTTPS, BILANCIO_TLS_CERT } = process.env
  if (!loopback && BILANCIO_HTTPS !== '1' && !BILANCIO_TLS_CERT)
    throw new Trouble(
      `BILANCIO_LISTEN=${listen} is reached from other machines: give a certificate with BILANCIO_TLS_CERT ` +
        'and BILANCIO_TLS_KEY, or say BILANCIO_HTTPS=1 when a proxy in front has one',
    )
}

async function main() {
  checkNode()
  const unknown = process.argv.slice(2).find(a => !['--fresh', '--dev'].includes(a))
  if (unknown) throw new Trouble(`${unknown} is not an option: there is --fresh, which begins anew`)
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Trouble(`PORT=${process.env.PORT} is not a port: use 1 to 65535`)
  checkListen()
  const secure = tls()
  if (await portTaken(port))
    throw new Trouble(
      `port ${port} is taken. Stop what uses it, or choose another: PORT=${port + 1} npm start`,
    )
  if (alreadyRunning())
    throw new Trouble(
      `Bilancio is running on ${data} already (process ${readFileSync(running, 'utf8').trim()})`,
    )
  if (fresh && process.env.DATABASE_URL)
    throw new Trouble(
      '--fresh begins anew only with the embedded database: empty the one at DATABASE_URL yourself',
    )
  if (fresh) await stopOrphan(data)
  const secrets = prepareFolder(data, fresh)
  const embedded = !process.env.DATABASE_URL
  if (embedded) installDebian('mariadbd', ['mariadb-server'], say)
  installPackages()
  const built = dev ? '' : build()
  writeFileSync(running, String(process.pid))

  let database
  let server
  let stopping = false
  const stop = async code => {
    if (stopping) return
    stopping = true
    if (server && server.exitCode === null && server.signalCode === null) {
      const ended = new Promise(done => server.once('exit', done))
      server.kill('SIGTERM')
      const timer = setTimeout(() => server.kill('SIGKILL'), 10_000)
      await ended
      clearTimeout(timer)
    }
    await database?.stop()
    rmSync(running, { force: true })
    process.exit(code)
  }
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) {
    process.on(signal, () => {
      say('Stopping')
      stop(0).catch(failed)
    })
  }

  try {
    if (embedded) {
      if (fresh) {
        for (const part of ['db', 'mailbox', 'mariadb.log'])
          rmSync(join(data, part), { recursive: true, force: true })
      }
      database = await startMariadb(data, secrets.database, { avoid: port })
      database.process.once('exit', () => {
        if (!stopping) {
          console.error(
            `the database server ended by itself. Its log is ${join(data, 'mariadb.log')}; start again ` +
              'and it recovers',
          )
          stop(1).catch(failed)
        }
      })
    }
    const env = {
      DATABASE_URL: process.env.DATABASE_URL || database.url,
      BILANCIO_DATA: data,
      ...(embedded ? { BILANCIO_EMBEDDED: data } : {}),
      PORT: String(port),
      HOST: listen,
      NITRO_PORT: String(port),
      NITRO_HOST: listen,
      ...secure,
      NODE_ENV: dev ? 'development' : 'production',
    }
    // Tables are made and changed by their owner; a server that is not ours has one user for both.
    const bootEnv = database
      ? { ...env, DATABASE_URL: database.ownerUrl, BILANCIO_DATABASE_USER: "'bilancio'@'127.0.0.1'" }
      : env
    if ((await runTs('server/boot.ts', bootEnv)) !== 0) return await stop(1)
    if (stopping) return
    const command = dev
      ? [
          join(root, 'node_modules/nuxt/bin/nuxt.mjs'),
          'dev',
          '--port',
          String(port),
          '--host',
          '127.0.0.1',
          '--no-fork',
        ]
      : [join(built, 'server/index.mjs')]
    server = spawn(process.execPath, command, {
      cwd: root,
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
      env: { ...process.env, ...env },
    })
    server.once('exit', code => {
      if (stopping) return
      console.error(`the server ended by itself (${code ?? 'killed'}). Nothing posted is lost: start again`)
      stop(1).catch(failed)
    })
    for (let i = 0; i < 300 && !stopping && !(await portTaken(port)); i++)
      await new Promise(r => setTimeout(r, 100))
    if (!stopping)
      say(
        `Bilancio is ready at ${secure.NITRO_SSL_CERT ? 'https' : 'http'}://127.0.0.1:${port} (Ctrl-C stops it)`,
      )
  } catch (error) {
    console.error(error instanceof Trouble ? error.message : error)
    await stop(1)
  }
}

main().catch(failed)
