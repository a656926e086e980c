import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { answersNoted, noteOutput } from './answers'

export interface Application {
  /** Kept when it says that it is ready, or has ended. */
  ready: Promise<void>
  url: string
  data: string
  port: number
  process: ChildProcess
  output: () => string
  ended: Promise<number | null>
}

const lib = () => import('../../scripts/lib/mariadb.mjs')

/** Runs `npm start` for real, on its own data folder and port. Waits until it is ready or has ended. */
export async function startApplication(
  env: Record<string, string> = {},
  data?: string,
): Promise<Application> {
  const app = await launchApplication(env, data)
  await app.ready
  return app
}

/** The same, without waiting. */
export async function launchApplication(
  env: Record<string, string> = {},
  data = mkdtempSync(join(tmpdir(), 'bilancio-e2e-')),
): Promise<Application> {
  const port = Number(env.PORT ?? (await (await lib()).freePort()))
  // It is stopped when the tests end, also when they are killed.
  const child = spawn(
    'setpriv',
    [
      ...['--pdeathsig', 'TERM', process.execPath, 'scripts/start.mjs'],
      ...(env.BILANCIO_ARGS ? [env.BILANCIO_ARGS] : []),
    ],
    {
      env: {
        ...process.env,
        DATABASE_URL: '',
        BILANCIO_DATA: data,
        BILANCIO_CHECK_ROWS: '1',
        PORT: String(port),
        ...answersNoted(),
        ...env,
      },
      stdio: ['ignore', 'pipe', 'pipe'],
    },
  )
  let output = ''
  const ended = new Promise<number | null>(resolve => child.once('exit', resolve))
  const ready = new Promise<void>(resolve => {
    const hear = (chunk: Buffer) => {
      output += chunk.toString()
      noteOutput(chunk)
      if (output.includes('Bilancio is ready')) resolve()
    }
    child.stdout.on('data', hear)
    child.stderr.on('data', hear)
    void ended.then(() => resolve())
  })
  return {
    ready,
    url: `http://127.0.0.1:${port}`,
    data,
    port,
    process: child,
    output: () => output,
    ended,
  }
}

export async function stopApplication(app: Application): Promise<number | null> {
  app.process.kill('SIGINT')
  return app.ended
}
