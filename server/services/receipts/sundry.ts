import { decideSundry, decideSundryVoid } from '../../../core/banking'
import type { Line } from '../../../core/ledger'
import { id } from '../../../contract/common'
import { sundryBody, type SundryRow } from '../../../contract/receipts'
import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { command } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { cut, decodeCursor } from '../common/paging'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'

const SUNDRY = `SELECT s.id, s.number, s.date, s.currency, s.amount, s.payer, s.text, s.account,
  a.name AS accountName, m.means, m.reference, s.void_entry_id IS NOT NULL AS voided, p.name AS \`by\`,
  e.number AS entry
  FROM sundry_receipt s JOIN ledger_account a ON a.number = s.account
  JOIN receipt_means m ON m.item_id = -s.id JOIN person p ON p.id = s.person_id
  JOIN entry e ON e.id = s.entry_id`
type Row = Omit<SundryRow, 'voided'> & { voided: unknown }
const shown = (r: Row): SundryRow => ({ ...r, voided: Boolean(r.voided) })

export async function readSundry(database: Handle, sundryId: number): Promise<SundryRow> {
  const [row] = await database.rows(sundryCells, `${SUNDRY} WHERE s.id = :sundryId`, { sundryId })
  if (!row) throw notFound(`sundry receipt ${sundryId}`)
  return shown(row)
}

const sundryCells: z.ZodType<Row> = z.object({
  number: cell.text,
  amount: cell.whole,
  id: cell.whole,
  date: cell.day,
  currency: cell.text,
  payer: cell.text,
  text: cell.text,
  account: cell.text,
  accountName: cell.text,
  means: cell.text,
  reference: cell.text,
  by: cell.text,
  entry: cell.whole,
  voided: cell.sum,
})

export async function listSundry(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    sundryCells,
    `${SUNDRY} ${cursor ? 'WHERE s.id < :last' : ''} ORDER BY s.id DESC LIMIT ${q.limit + 1}`,
    { last: cursor?.[0] },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(shown), next: page.next }
}

/** Money received that is no customer's: an insurer's cheque, a sale of pallets. */
export const sundryCommand = command({
  name: 'receipts.sundry',
  ability: 'receipts.post',
  input: sundryBody.transform(b => ({ ...b, text: b.text || `From ${b.payer}` })),
  steady: true,
  locks: async () => ({}),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => ({
    ledger: await loadState(
      db,
      { customerIds: [], rates: [{ currency: input.currency, date: input.date }] },
      settings,
    ),
  }),
  decide: decideSundry,
  after: async ({ db, input, postings, written, actor }) => {
    const [sundryId] = await db.insert('sundry_receipt', [
      {
        number: written[0]!.number,
        date: input.date,
        currency: input.currency,
        amount: input.amount,
        payer: input.payer,
        text: input.text,
        account: input.account,
        entry_id: written[0]!.entryId,
        person_id: actor.id,
      },
    ])
    const [money] = postings[0]!.lines
    await db.insert('receipt_means', [
      {
        item_id: -sundryId!,
        means: input.means,
        amount: input.amount,
        base_amount: money!.baseAmount,
        reference: input.reference,
        account: money!.account,
      },
    ])
    return { id: sundryId! }
  },
  about: input => input.payer,
})

/** Its payment means are its lock: a slip and a bank line take them too. */
const meansOf = async (db: Handle, sundryId: number) =>
  (await db.find('receipt_means', { item_id: -sundryId }, { columns: ['id'] })).map(m => m.id)

const sundryVoidCommandRow = z.object({
  what: cell.text.nullable(),
})

export const sundryVoidCommand = command({
  name: 'receipts.sundryVoid',
  ability: 'receipts.correct',
  input: z.object({ id, reason: z.string().trim().min(1, { error: 'say why' }).max(200) }),
  steady: true,
  locks: async (db, input) => ({ means: await meansOf(db, input.id) }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const [row] = await db.find(
      'sundry_receipt',
      { id: input.id },
      { columns: { number: 'number', entryId: 'entry_id', voidEntryId: 'void_entry_id' } },
    )
    if (!row) throw notFound(`sundry receipt ${input.id}`)
    const [away] = await db.rows(
      sundryVoidCommandRow,
      `SELECT COALESCE((SELECT CONCAT('went to the bank on slip ', p.number) FROM slip_means sm
          JOIN slip p ON p.id = sm.slip_id WHERE sm.means_id = m.id AND p.void_entry_id IS NULL),
        (SELECT 'was seen at the bank' FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id
          WHERE t.kind = 'means' AND t.ref_id = m.id AND b.undone_entry_id IS NULL LIMIT 1)) AS what
        FROM receipt_means m WHERE m.item_id = :item`,
      { item: -input.id },
    )
    return {
      ledger: await loadState(db, { customerIds: [] }, settings),
      number: row.number,
      voided: row.voidEntryId !== null,
      away: away?.what ?? null,
      lines: await entryLines(db, row.entryId),
    }
  },
  decide: decideSundryVoid,
  after: async ({ db, input, written }) => {
    await db.update(
      'sundry_receipt',
      { void_entry_id: written[0]!.entryId, void_reason: input.reason },
      { id: input.id },
    )
    return { id: input.id }
  },
  about: input => String(input.id),
})

const entryLinesRow = z.object({
  account: cell.text,
  currency: cell.text,
  amount: cell.whole,
  baseAmount: cell.whole,
  customerId: cell.whole.nullable(),
  item: cell.whole.nullable(),
  allocation: cell.whole.nullable(),
})

/** The lines of an entry that moved no item, to be mirrored. */
export function entryLines(db: Handle, entryId: number): Promise<Line[]> {
  return db.rows(
    entryLinesRow,
    `SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, NULL AS item,
      NULL AS allocation FROM journal_line WHERE entry_id = :entryId ORDER BY id`,
    { entryId },
  )
}
