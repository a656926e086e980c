import type { Handle } from '../../db/handle'
import { readSettings, type Access } from '../../db/settings'

/** A change of Setup is seen by every process after so long. */
const FRESH_MS = 3000

let kept: { access: Access; at: number } | undefined

/** Names that the operator gives at the start, for a first sign-in through a proxy. */
const hostsGiven = (): string[] =>
  (process.env.BILANCIO_HOSTS ?? '')
    .split(',')
    .map(h => h.trim().toLowerCase())
    .filter(Boolean)

/** Who is let in, as Setup says; read at most every few seconds, as each request asks. */
export async function accessRules(database: Handle): Promise<Access> {
  const now = Date.now()
  if (!kept || now - kept.at > FRESH_MS) {
    const { access } = await readSettings(database)
    kept = { access: { ...access, hosts: [...access.hosts, ...hostsGiven()] }, at: now }
  }
  return kept.access
}

/** After a change here: seen at once in this process. */
export function forgetAccessRules(): void {
  kept = undefined
}
