import { z } from 'zod'
import { cell } from '../../../db/rows'
import type { HistoryLine } from '../../../../contract/accounts/master'
import type { Handle } from '../../../db/handle'
import { audit } from '../../../db/settings'

/** So many changes are told. */
const SHOWN = 60

const auditRow = z.object({
  at: cell.text,
  by: cell.text,
  before: cell.text.nullable(),
  after: cell.text.nullable(),
})
/** What a row of the trail holds of a customer: the version it led to, and fields. */
interface Kept {
  version?: number
  reason?: string
  fields: Record<string, string>
}

function keptIn(text: string | null): Kept {
  if (text === null) return { fields: {} }
  const { version, reason, ...fields } = JSON.parse(text) as Record<string, unknown>
  return {
    version: typeof version === 'number' ? version : undefined,
    reason: typeof reason === 'string' ? reason : undefined,
    fields: Object.fromEntries(Object.entries(fields).map(([field, value]) => [field, String(value ?? '')])),
  }
}

/** Who changed what of a customer, and when; the newest first. */
export async function historyOf(database: Handle, number: string, sinceVersion = 0): Promise<HistoryLine[]> {
  const rows = await database.rows(
    auditRow,
    `SELECT a.at, p.name AS \`by\`, a.before_value AS \`before\`, a.after_value AS after FROM audit a
      JOIN person p ON p.id = a.person_id WHERE a.what = 'customer' AND a.about = :number
      ORDER BY a.id DESC LIMIT ${SHOWN}`,
    { number },
  )
  return rows.flatMap(row => {
    const [before, after] = [keptIn(row.before), keptIn(row.after)]
    if (sinceVersion > 0 && (after.version ?? 0) <= sinceVersion) return []
    return Object.entries(after.fields).map(([field, value]) => ({
      at: row.at,
      by: row.by,
      field,
      before: before.fields[field] ?? '',
      after: value,
      reason: after.reason ?? '',
    }))
  })
}

/** Keeps a change of a customer: fields before and after, as text, and the version it led to. */
export function keepChange(
  tx: Handle,
  personId: number,
  number: string,
  change: {
    version: number
    reason: string
    fields: readonly { field: string; before: string; after: string }[]
  },
): Promise<void> {
  const { version, reason, fields } = change
  const side = (which: 'before' | 'after') => Object.fromEntries(fields.map(f => [f.field, f[which]]))
  return audit(
    tx,
    personId,
    'customer',
    number,
    JSON.stringify(side('before')),
    JSON.stringify({ version, ...(reason ? { reason } : {}), ...side('after') }),
  )
}
