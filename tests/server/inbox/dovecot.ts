import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, chownSync, mkdirSync, mkdtempSync, writeFileSync } from 'node:fs'
import { createServer, connect, type AddressInfo } from 'node:net'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'

/** An IMAP server that others wrote (Debian's dovecot), on loopback, with one mailbox. */
export interface ImapServer {
  /** In the clear, with TLS by STARTTLS, and TLS from the start. */
  plain: string
  tls: string
  /** The authority of its certificate. */
  ca: string
  deliver: (name: string, raw: string) => void
  stop: () => Promise<void>
  start: () => Promise<void>
}

const freePort = () =>
  new Promise<number>(resolve => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo
      server.close(() => resolve(port))
    })
  })

const answers = (port: number) =>
  new Promise<boolean>(resolve => {
    const socket = connect(port, '127.0.0.1')
    socket.once('connect', () => {
      socket.destroy()
      resolve(true)
    })
    socket.once('error', () => resolve(false))
  })

function certificate(folder: string): { cert: string; key: string } {
  const [cert, key] = [join(folder, 'cert.pem'), join(folder, 'key.pem')]
  execFileSync(
    'openssl',
    ['req', '-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', '-subj', '/CN=localhost'].concat(
      ['-addext', 'subjectAltName=DNS:localhost,IP:127.0.0.1'],
      ['-keyout', key, '-out', cert],
    ),
    { stdio: 'pipe' },
  )
  return { cert, key }
}

export async function imapServer(): Promise<ImapServer> {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-imap-'))
  const fresh = join(folder, 'mail', 'new')
  for (const part of ['new', 'cur', 'tmp']) mkdirSync(join(folder, 'mail', part), { recursive: true })
  const me = userInfo()
  const isRoot = me.uid === 0
  // The mailbox belongs to nobody when the tests run as root: the server refuses mail of root.
  const [uid, gid] = isRoot ? [65534, 65534] : [me.uid, me.gid]
  chmodSync(folder, 0o755)
  const [port, securePort] = [await freePort(), await freePort()]
  const { cert, key } = certificate(folder)
  const config = join(folder, 'dovecot.conf')
  writeFileSync(
    config,
    `protocols = imap
base_dir = ${join(folder, 'run')}
state_dir = ${join(folder, 'state')}
log_path = ${join(folder, 'log')}
listen = 127.0.0.1
ssl = yes
ssl_cert = <${cert}
ssl_key = <${key}
disable_plaintext_auth = no
first_valid_uid = 1
${isRoot ? '' : `default_internal_user = ${me.username}\ndefault_login_user = ${me.username}`}
mail_location = maildir:${join(folder, 'mail')}
passdb {
  driver = static
  args = password=with-a-:secret
}
userdb {
  driver = static
  args = uid=${uid} gid=${gid} home=${folder}
}
service anvil {
  chroot =
}
service imap-login {
  chroot =
  inet_listener imap {
    port = ${port}
  }
  inet_listener imaps {
    port = ${securePort}
  }
}
`,
  )
  const own = (path: string) => isRoot && chownSync(path, uid, gid)
  for (const part of ['', 'new', 'cur', 'tmp']) own(join(folder, 'mail', part))
  let server: ChildProcess | null = null
  const start = async () => {
    server = spawn('dovecot', ['-F', '-c', config], { stdio: 'ignore', detached: true })
    for (let tries = 0; tries < 200; tries++) {
      if ((await answers(port)) && (await answers(securePort))) return
      await new Promise(resolve => setTimeout(resolve, 50))
    }
    throw new Error(`dovecot does not answer: see ${join(folder, 'log')}`)
  }
  const stop = () =>
    new Promise<void>(resolve => {
      if (!server) return resolve()
      server.once('exit', () => resolve())
      // With all that serve a connection: cut off, not wound up.
      process.kill(-server.pid!, 'SIGKILL')
      server = null
    })
  await start()
  const at = (scheme: string, host: string, to: number) =>
    `${scheme}://money%40house.example:with-a-%3Asecret@${host}:${to}/INBOX`
  return {
    plain: at('imap', '127.0.0.1', port),
    tls: at('imaps', 'localhost', securePort),
    ca: cert,
    deliver: (name, raw) => {
      writeFileSync(join(fresh, name), raw)
      own(join(fresh, name))
    },
    start,
    stop,
  }
}
