import { z } from 'zod'
import { OUTCOMES, type Outcome } from '../../../core/callList'
import { DISPUTE_REASONS, RESOLUTIONS, type DisputeReason, type Resolution } from '../../../core/disputes'
import { HOLD_CAUSES, type HoldCause } from '../../../core/exposure'
import { kindList } from '../../../core/ledger'
import { toMajor } from '../../../core/money'
import { TIMELINE_KINDS, type TimelineEntry } from '../../../contract/accounts'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'
import type { Scope } from '../people/scope'
import { findCustomer } from './customers'

type Kind = (typeof TIMELINE_KINDS)[number]
const MONEY = kindList(k => k.money)

/** Each kind from its table: day, id, by, and what its words are made of. `text` is what is searched. */
interface Source {
  from: string
  day: string
  id: string
  by: string
  code: string
  text: string
  state: string
  amount?: string
  currency?: string
  where?: string
}

const who = (column: string) => `(SELECT p.name FROM person p WHERE p.id = ${column})`

const SOURCES: Record<Kind, Source> = {
  receipt: {
    from: 'item x',
    day: 'x.posting_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: 'x.number',
    text: 'x.text',
    state: `IF(EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = x.id), 'reversed', '')`,
    amount: 'x.amount',
    currency: 'x.currency',
    where: `x.kind IN (${MONEY})`,
  },
  refund: {
    from: 'refund x JOIN item i ON i.id = x.item_id',
    day: 'i.posting_date',
    id: 'i.id',
    by: who('i.person_id'),
    code: 'i.number',
    text: 'i.text',
    state: `CASE WHEN EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) THEN 'taken back'
      WHEN EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'refund' AND t.ref_id = i.id
        AND t.live IS NOT NULL) THEN 'paid' ELSE x.method END`,
    amount: 'i.amount',
    currency: 'i.currency',
  },
  collection: {
    from: 'collection x',
    day: 'COALESCE(x.back_on, LEAST(x.collect_on, :today))',
    id: 'x.id',
    by: `''`,
    code: `COALESCE(x.number, '')`,
    text: `CONCAT_WS(' ', NULLIF(x.back_code, ''), NULLIF(x.back_why, ''), NULLIF(x.why, ''))`,
    state: 'x.state',
    amount: 'x.amount',
    currency: `'EUR'`,
    where: `x.state <> 'proposed'`,
  },
  mandate: {
    from: 'mandate x',
    day: 'x.signed_on',
    id: 'x.id',
    by: who('x.person_id'),
    code: 'x.reference',
    text: `CONCAT_WS(' ', x.scheme, x.iban, NULLIF(x.state_why, ''))`,
    state: 'x.state',
  },
  reminder: {
    from: 'notice x',
    day: 'x.on_date',
    id: 'x.id',
    by: `''`,
    code: 'x.number',
    text: `IF(x.withdrawn_on IS NULL, '', CONCAT('withdrawn: ', x.withdrawn_why))`,
    // The level of its letter; 0: an interest note.
    state: 'x.level',
  },
  call: {
    from: 'call_log x',
    day: 'x.on_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: 'x.outcome',
    text: `CONCAT_WS(' · ', NULLIF(x.spoke_with, ''), NULLIF(x.text, ''))`,
    state: `COALESCE(CONCAT('again ', x.next_date), '')`,
  },
  promise: {
    from: 'promise x',
    day: 'x.made_on',
    id: 'x.id',
    by: who('x.person_id'),
    code: `COALESCE((SELECT MIN(t.date) FROM promise_part t WHERE t.promise_id = x.id), '')`,
    text: 'x.text',
    state: 'x.state',
    amount: '(SELECT SUM(t.amount) FROM promise_part t WHERE t.promise_id = x.id)',
    currency: 'x.currency',
  },
  dispute: {
    from: 'dispute x',
    day: 'COALESCE(x.resolved_on, x.opened_on)',
    id: 'x.id',
    by: who('COALESCE(x.resolved_by, x.person_id)'),
    code: 'x.reason',
    text: `CONCAT_WS(' · ', NULLIF(x.text, ''), NULLIF(x.resolution_text, ''))`,
    state: 'x.resolution',
    amount: '(SELECT SUM(t.amount) FROM dispute_item t WHERE t.dispute_id = x.id)',
    currency: 'x.currency',
  },
  letter: {
    from: 'sent_letter x',
    day: 'x.on_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: 'x.kind',
    text: 'x.number',
    state: `COALESCE((SELECT o.state FROM outbox o WHERE o.letter_id = x.id LIMIT 1), '')`,
  },
  message: {
    from: 'message x',
    day: 'x.on_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: who('x.to_id'),
    text: 'x.text',
    state: `IF(x.due IS NULL, '', IF(x.done_at IS NULL, CONCAT('until ', x.due), 'done'))`,
  },
  note: {
    from: 'note x',
    day: 'x.on_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: `''`,
    text: 'x.text',
    state: `IF(x.pinned = 1, 'pinned', '')`,
  },
  mail: {
    from: 'inbox x',
    day: 'x.on_date',
    id: 'x.id',
    by: 'x.sender',
    code: 'x.subject',
    text: 'LEFT(x.text, 300)',
    state: `IF(x.state = 'new', 'waits', x.done_as)`,
  },
  file: {
    from: 'attachment x',
    day: 'x.on_date',
    id: 'x.id',
    by: who('x.person_id'),
    code: 'x.name',
    text: 'x.text',
    state: `''`,
    where: 'x.removed_at IS NULL',
  },
  hold: {
    from: 'hold x',
    day: 'x.on_date',
    id: 'x.id',
    by: `COALESCE(${who('x.person_id')}, '')`,
    code: 'x.cause',
    text: 'x.reason',
    state: `IF(x.ended_on IS NULL, 'lasts', CONCAT('ended ', x.ended_on))`,
  },
  change: {
    from: 'audit x',
    day: 'LEAST(DATE(x.at), :today)',
    id: 'x.id',
    by: who('x.person_id'),
    code: `''`,
    text: `COALESCE(x.after_value, '')`,
    state: `''`,
  },
}

const entryRow = z.object({
  kind: z.enum(TIMELINE_KINDS),
  id: cell.whole,
  date: cell.day,
  by: cell.text,
  code: cell.text,
  text: cell.text,
  state: cell.text,
  amount: cell.sum,
  currency: cell.text,
})
type Cells = z.output<typeof entryRow>

/** Who sees only their own customers reads what was written to them or by them, not what others write. */
const OWN_WORDS = 'AND (x.to_id = :salesId OR x.person_id = :salesId)'

function selectOf(kind: Kind, values: Values, cursor: boolean, limit: number): string {
  const s = SOURCES[kind]
  const owner =
    kind === 'change' ? `x.what = 'customer' AND x.about = :number` : 'x.customer_id = :customerId'
  const place = TIMELINE_KINDS.indexOf(kind)
  // Of one day the kinds stand in their order, and of a kind the newest first.
  const before = cursor
    ? `AND (${s.day} < :lastDay OR (${s.day} = :lastDay AND (${place} > :lastPlace
        OR (${place} = :lastPlace AND ${s.id} < :lastId))))`
    : ''
  const search = values.search ? `AND (${s.text} LIKE :search OR ${s.code} LIKE :search)` : ''
  return `(SELECT '${kind}' AS kind, ${place} AS place, ${s.id} AS id, ${s.day} AS date, ${s.by} AS \`by\`,
    ${s.code} AS code, ${s.text} AS text, COALESCE(${s.state}, '') AS state, ${s.amount ?? 'NULL'} AS amount,
    ${s.currency ?? `''`} AS currency FROM ${s.from} WHERE ${owner} ${s.where ? `AND ${s.where}` : ''} ${before}
    ${kind === 'message' && values.salesId ? OWN_WORDS : ''} ${search} ORDER BY ${s.day} DESC, ${s.id} DESC LIMIT ${limit + 1})`
}

const LETTERS: Record<string, string> = {
  statement: 'Statement',
  copy: 'Copy',
  plan: 'Plan',
  upheld: 'Answer to a dispute',
  withdrawn: 'Reminder withdrawn',
  claim: 'Claim by law',
  refund: 'Advice of refund',
  unclaimed: 'Credit on the account',
  assignment: 'Notice of assignment',
  notice: 'Advance notice of direct debit',
}
const STATES: Record<string, string> = {
  queued: 'on its way',
  waiting: 'waits for the mail server',
  sent: 'sent',
  failed: 'failed',
  print: 'to be printed',
  open: 'to come',
  partly: 'partly kept',
}

/** What changed, as the trail kept it. */
function changed(text: string): string {
  try {
    const { version: _, reason, ...fields } = JSON.parse(text) as Record<string, unknown>
    const list = Object.entries(fields).map(([field, value]) => `${field}: ${String(value ?? '') || 'none'}`)
    return [list.join(', '), reason ? `(${String(reason)})` : ''].filter(Boolean).join(' ')
  } catch {
    return text
  }
}

function shown(row: Cells, number: string): TimelineEntry {
  const { kind, id, date, by, code } = row
  const money = row.amount === null ? '' : `${toMajor(Number(row.amount), row.currency)} ${row.currency}`
  const account = encodeURIComponent(number)
  const entry = { kind, id, date, by, text: row.text, state: STATES[row.state] ?? row.state }
  switch (kind) {
    case 'receipt':
      return { ...entry, title: `${code}, ${money}`, to: `/receipts/${id}` }
    case 'refund':
      return { ...entry, title: `Refund ${code}, ${money}`, to: `/refunds?part=refunds&customer=${account}` }
    case 'collection':
      return {
        ...entry,
        title: `Direct debit ${code}, ${money}`,
        to: `/collections/payments?part=all&customer=${account}`,
      }
    case 'mandate':
      return { ...entry, title: `Mandate ${code} signed`, to: `/collections/mandates?customer=${account}` }
    case 'reminder':
      return {
        ...entry,
        title: row.state === '0' ? `Interest note ${code}` : `Reminder ${code}`,
        state: row.state === '0' ? '' : `level ${row.state}`,
        to: `/api/reminders/notices/${id}/letter`,
      }
    case 'call':
      return { ...entry, title: OUTCOMES[code as Outcome].label, to: '' }
    case 'promise':
      return { ...entry, title: `${money} for ${code}`, to: `/promises?customer=${account}` }
    case 'dispute':
      return {
        ...entry,
        title: `${DISPUTE_REASONS[code as DisputeReason]}, ${money}`,
        state: row.state ? RESOLUTIONS[row.state as Resolution].toLowerCase() : 'open',
        to: `/disputes?customer=${account}`,
      }
    case 'letter':
      return { ...entry, title: `${LETTERS[code] ?? code} ${row.text}`, text: '', to: `/api/letters/${id}` }
    case 'message':
      return { ...entry, title: `To ${code}`, to: `/messages?id=${id}` }
    case 'mail':
      return { ...entry, title: code || 'without a subject', to: `/inbox?id=${id}` }
    case 'file':
      return { ...entry, title: code, to: `/api/attachments/${id}` }
    case 'hold':
      return { ...entry, title: HOLD_CAUSES[code as HoldCause], to: `/exposure/${account}` }
    case 'change':
      return { ...entry, title: 'Master changed', text: changed(row.text), to: `/accounts/${account}/master` }
    case 'note':
      return { ...entry, title: 'Note', to: '' }
  }
}

/** All that happened on an account, in one line of time, the newest first. */
export async function readTimeline(
  database: Handle,
  number: string,
  q: { kind?: Kind; search?: string; limit: number; cursor?: string },
  scope: Scope,
): Promise<{ items: TimelineEntry[]; next: string | null }> {
  const { today } = await readSettings(database)
  const customer = await findCustomer(database, number, scope)
  const values: Values = {
    customerId: customer.id,
    number: customer.number,
    today,
    salesId: scope.salesId ?? 0,
  }
  if (q.search) values.search = like(q.search)
  const cursor = decodeCursor(q.cursor, 3)
  if (cursor) [values.lastDay, values.lastPlace, values.lastId] = cursor
  // The trail of changes is not for who sees only their own customers.
  const asked = q.kind ? [q.kind] : TIMELINE_KINDS
  const kinds = asked.filter(kind => !scope.salesId || kind !== 'change')
  if (!kinds.length) return { items: [], next: null }
  const rows = await database.rows(
    entryRow.extend({ place: cell.whole }),
    `SELECT * FROM (${kinds.map(kind => selectOf(kind, values, cursor !== null, q.limit)).join(' UNION ALL ')}) t
      ORDER BY date DESC, place ASC, id DESC LIMIT ${q.limit + 1}`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.date, r.place, r.id])
  return { items: page.items.map(row => shown(row, customer.number)), next: page.next }
}
