import { z } from 'zod'
import { cell } from '../../db/rows'
import { rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Health } from '../../../contract/health'
import { int, openDatabase } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { LOW_BYTES, RESERVE_BYTES, roomIn } from '../../db/room'
import { faultOf, log } from '../../log'
import { bankInbox, dataFolder } from '../../wiring'

/** Each part answers within this, or is said not to: health is asked by machines that decide on it. */
const PART_MS = 700

/** A job that nobody takes for so long waits for a worker that is gone. */
const STUCK_SECONDS = 120

let own: Handle | undefined

/**
 * A connection of its own, always open: neither the crowd at the others nor a database slow to let anybody in
 * makes health silent.
 */
function connection(): Handle {
  own ??= openDatabase(process.env.DATABASE_URL!, 1, { seconds: 1, kept: 1 })
  return own
}

function within<T>(work: Promise<T>, late: T): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const end = new Promise<T>(resolve => {
    timer = setTimeout(() => resolve(late), PART_MS)
  })
  return Promise.race([work, end]).finally(() => clearTimeout(timer))
}

const countsRow = z.object({
  stuck: cell.sum,
  failed: cell.sum,
  waiting: cell.sum,
  aside: cell.sum,
})
type Counts = z.output<typeof countsRow>

/** What the database tells; undefined when it does not answer. */
async function ask(): Promise<Counts | undefined> {
  try {
    const [row] = await connection().rows(
      countsRow,
      `SELECT
        (SELECT COUNT(*) FROM job WHERE (state = 'queued' AND at < UTC_TIMESTAMP(3) - INTERVAL :stuck SECOND)
          OR (state = 'running' AND heartbeat < UTC_TIMESTAMP(3) - INTERVAL :stuck SECOND)) AS stuck,
        (SELECT COUNT(*) FROM outbox WHERE state = 'failed') AS failed,
        (SELECT COUNT(*) FROM outbox WHERE state = 'waiting') AS waiting,
        (SELECT COUNT(*) FROM inbox_fault WHERE dismissed = 0) AS aside`,
      { stuck: STUCK_SECONDS },
    )
    return row
  } catch (error) {
    log.warn(faultOf(error), 'health: the database does not answer')
    return undefined
  }
}

/** Whether the disk under the data folder takes what is written. */
export function diskState(folder: string): Health['disk'] {
  const probe = join(folder, 'health.probe')
  try {
    writeFileSync(probe, Buffer.alloc(64 * 1024), { mode: 0o600 })
    rmSync(probe)
    const free = roomIn(folder)
    return free < RESERVE_BYTES ? 'full' : free < LOW_BYTES ? 'low' : 'ok'
  } catch (error) {
    rmSync(probe, { force: true })
    const { code } = error as { code?: string }
    return code === 'ENOSPC' || code === 'EDQUOT' ? 'full' : 'not writable'
  }
}

function inboxState(aside: number): Health['inbox'] {
  try {
    bankInbox().files()
    return aside ? 'files set aside' : 'ok'
  } catch {
    return 'not readable'
  }
}

export async function readHealth(): Promise<Health> {
  const counts = await within(ask(), undefined)
  const disk = diskState(dataFolder())
  const parts = {
    database: counts ? 'ok' : 'no answer',
    disk,
    queue: !counts ? 'unknown' : int(counts.stuck) ? 'stuck' : 'ok',
    mail: !counts ? 'unknown' : int(counts.failed) ? 'failed' : int(counts.waiting) ? 'waiting' : 'ok',
    inbox: inboxState(int(counts?.aside)),
  } as const satisfies Omit<Health, 'status' | 'version'>
  const isDown = parts.database !== 'ok' || disk === 'full' || disk === 'not writable'
  const isPlain = Object.values(parts).every(p => p === 'ok')
  return { status: isDown ? 'down' : isPlain ? 'ok' : 'look', ...parts, version: '0.1.0' }
}
