import { cell } from '../../db/rows'
import { z } from 'zod'
import { id } from '../../../contract/common'
import { writeOffBody, type WriteOffBody } from '../../../contract/impairment'
import {
  claimRelief,
  decideWriteOff,
  givenUpBy,
  WRITE_OFF_REASONS,
  type Commission,
  type Evidence,
  type GivenUp,
  type WaitingRelief,
} from '../../../core/impairment'
import { decided, kindList, refuse, refused, type LedgerState, type Line } from '../../../core/ledger'
import { amountWords } from '../../../core/money'
import { reverse } from '../../../core/receipts'
import { chunksOf, type Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { command, perform, type By, type Change, type Idempotency } from '../../ledger/command'
import { loadLines, loadState } from '../../ledger/load'
import { performOrKeep } from '../../ledger/waiting'
import { findCustomer } from '../accounts/customers'
import { AT_FACTOR } from '../factoring/atFactor'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'

const ownerRow = z.object({
  itemId: cell.whole,
  customerId: cell.whole,
  customer: cell.text,
  country: cell.text,
  dueDate: cell.text,
  level: cell.whole.nullable(),
  collection: cell.text.nullable(),
  factor: cell.text.nullable(),
})
type OwnerRow = z.output<typeof ownerRow>

const CHUNK = 5000
const SOLD = kindList(k => k.document)
/** So many of a large batch a signer is shown one by one. */
const TOLD = 30

/** Whose the items are, with all that tax relief asks of them. */
async function ownersOf(db: Handle, itemIds: readonly number[]): Promise<OwnerRow[]> {
  const rows: OwnerRow[] = []
  for (const some of chunksOf(itemIds, CHUNK))
    rows.push(
      ...(await db.rows(
        ownerRow,
        `SELECT i.id AS itemId, c.id AS customerId, c.number AS customer, c.country,
          COALESCE(i.due_date, i.posting_date) AS dueDate,
          (SELECT MAX(n.level) FROM notice_item n JOIN live_notice l ON l.id = n.notice_id
            WHERE n.item_id = i.id) AS level,
          (SELECT MAX(k.number) FROM collection_item t JOIN collection k ON k.id = t.collection_id
            WHERE t.item_id = i.id AND k.state IN ('announced', 'sent')) AS collection,
          ${AT_FACTOR} AS factor
          FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id IN (:some)`,
        { some },
      )),
    )
  return rows
}

const allowanceLeftRow = z.object({
  base: cell.sum,
})

/** What is set aside and not used yet, base minor units: the credit balance of the allowance account. */
export async function allowanceLeft(db: Handle): Promise<number> {
  const [row] = await db.rows(
    allowanceLeftRow,
    `SELECT -COALESCE(SUM(l.base_amount), 0) AS base FROM journal_line l
      WHERE l.account = (SELECT number FROM ledger_account WHERE purpose = 'allowance')`,
  )
  return Number(row!.base)
}

const evidenceOf = (row: OwnerRow, insolvent = false): Evidence => ({
  dueDate: row.dueDate,
  remindedLevel: Number(row.level ?? 0),
  insolvent,
})

const itemIdsIn = (input: { items: readonly { itemId: number }[] }): number[] =>
  input.items.map(i => i.itemId)

/** Whose an item is meanwhile, in words; null when it is ours. */
function keptBy({ factor, collection }: OwnerRow): string | null {
  if (factor !== null) return `lies with ${factor}`
  return collection === null ? null : `is on its way to be collected by ${collection}`
}

const writeOffCommandRow = z.object({
  name: cell.text,
})

/** Writes items off, one posting for each customer. All are posted or none. */
export const writeOffCommand = command({
  name: 'impairment.writeOff',
  ability: 'impairment.post',
  input: writeOffBody,
  locks: async (db, input) => ({
    ...(input.against === 'allowance' ? { allowance: true as const } : {}),
    customers: [...new Set((await ownersOf(db, itemIdsIn(input))).map(o => o.customerId))],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const itemIds = itemIdsIn(input)
    const owners = await ownersOf(db, itemIds)
    const customerIds = [...new Set(owners.map(o => o.customerId))]
    return {
      ledger: await loadState(db, { customerIds, itemIds }, settings),
      policy: settings.impairmentPolicy.relief,
      countries: new Map(owners.map(o => [o.customerId, o.country])),
      evidence: new Map(owners.map(o => [o.itemId, evidenceOf(o)])),
      kept: new Map(
        owners.flatMap(o => {
          const why = keptBy(o)
          return why === null ? [] : [[o.itemId, why] as const]
        }),
      ),
      allowance: input.against === 'allowance' ? await allowanceLeft(db) : 0,
      customer: customerIds.length === 1 ? await findCustomer(db, owners[0]!.customer, {}) : null,
    }
  },
  decide: decideWriteOff,
  stake: (state, input) => {
    const given = givenUpBy(state, input)
    const base = given.reduce((sum, g) => sum + g.base, 0)
    return {
      kind: 'write-off' as const,
      amount: base,
      currency: state.ledger.base,
      baseAmount: base,
      customerId: state.customer?.id ?? null,
    }
  },
  changes: (state, input): Change[] => {
    const told = givenUpBy(state, input)
      .slice(0, TOLD)
      .map(g => {
        const item = state.ledger.items.get(g.itemId)!
        return {
          field: `${item.number}, ${WRITE_OFF_REASONS[input.reason].toLowerCase()}`,
          before: `${amountWords(item.open, item.currency)} open`,
          after: `${amountWords(g.amount, item.currency)} written off`,
        }
      })
    const more = input.items.length - told.length
    return more > 0 ? [...told, { field: 'and', before: '', after: `${more} more items` }] : told
  },
  after: async ({ db, input, state, actor, postings, written, facts }) => {
    const closing = postings.flatMap((_, n) => written[n]!.items)
    await db.insert(
      'write_off',
      facts.map((g, n) => ({
        item_id: closing[n]!.id,
        of_item_id: g.itemId,
        customer_id: state.ledger.items.get(g.itemId)!.customerId,
        reason: input.reason,
        text: input.text,
        against: input.against,
        commission: input.commission,
        tax: g.tax,
        tax_base: g.taxBase,
        relief: g.relief,
        relief_why: g.why.slice(0, 200),
        relief_on: g.relief === 'claimed' ? postings[0]!.date : null,
        person_id: actor.id,
      })),
    )
    if (input.reason === 'insolvency') await holdAccounts(db, actor, state.ledger, facts, input.text)
    return { numbers: closing.map(i => i.number) }
  },
  warnings: async (db, input) => {
    const customers = await db.rows(
      writeOffCommandRow,
      `SELECT DISTINCT c.name FROM item i JOIN customer c ON c.id = i.customer_id
        JOIN dispute_item t ON t.item_id = i.id JOIN dispute d ON d.id = t.dispute_id AND d.resolution = ''
        WHERE i.id IN (:ids) ORDER BY c.name LIMIT 3`,
      { ids: itemIdsIn(input).slice(0, CHUNK) },
    )
    return [
      ...customers.map(c => `${c.name} disputes something of it: resolving the dispute comes first`),
      ...(await commissionEffect(db, input)),
      ...(input.reason === 'insolvency'
        ? ['the account is held from then on, until somebody releases it']
        : []),
    ]
  },
  tell: ({ input }) =>
    input.items.length <= TOLD ? input : { ...input, items: `${input.items.length} items` },
  about: ({ items }) => (items.length === 1 ? `item ${items[0]!.itemId}` : `${items.length} items`),
})

const sellerRow = z.object({
  seller: cell.text,
  base: cell.sum,
})
type SellerRow = z.output<typeof sellerRow>

/** What either answer to the question of commission does: on what it stays, or is taken back. */
async function commissionEffect(
  db: Handle,
  { items, commission }: { items: readonly { itemId: number; amount?: number }[]; commission: Commission },
): Promise<string[]> {
  const { base } = await readSettings(db)
  const rows: SellerRow[] = []
  for (const some of chunksOf(items, CHUNK)) {
    const whole = some.filter(i => i.amount === undefined).map(i => i.itemId)
    const parts = some.flatMap(i => (i.amount === undefined ? [] : [i]))
    // Commission is earned on sales: on what is open without the tax in it.
    const net = (share: string) =>
      `SUM(ROUND(o.base_open * ${share} * (i.amount - COALESCE(i.tax, 0)) / i.amount))`
    const from = `FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
      JOIN person p ON p.id = c.sales_id WHERE o.open > 0 AND i.kind IN (${SOLD})`
    if (whole.length)
      rows.push(
        ...(await db.rows(
          sellerRow,
          `SELECT p.name AS seller, ${net('1')} AS base ${from} AND i.id IN (:whole) GROUP BY p.id`,
          { whole },
        )),
      )
    for (const { itemId, amount } of parts)
      rows.push(
        ...(await db.rows(
          sellerRow,
          `SELECT p.name AS seller, ${net(':amount / o.open')} AS base ${from} AND i.id = :itemId GROUP BY p.id`,
          { itemId, amount },
        )),
      )
  }
  const bySeller = new Map<string, number>()
  for (const { seller, base: net } of rows) bySeller.set(seller, (bySeller.get(seller) ?? 0) + Number(net))
  return [...bySeller].sort().map(([seller, net]) => {
    const amount = amountWords(net, base)
    return commission === 'kept'
      ? `${seller} keeps the commission on ${amount} of sales; taken back, it would go down by theirs`
      : `the commission of ${seller} on ${amount} of sales is taken back; kept, it would stay`
  })
}

/** Who is insolvent gets no goods on account any more, though nothing is overdue now. */
async function holdAccounts(
  db: Handle,
  actor: By,
  ledger: LedgerState,
  given: readonly GivenUp[],
  text: string,
): Promise<void> {
  const customerIds = new Set(given.map(g => ledger.items.get(g.itemId)!.customerId))
  await db.insert(
    'hold',
    [...customerIds].map(customer_id => ({
      customer_id,
      cause: 'hand',
      reason: `Insolvent: ${text}`.slice(0, 200),
      on_date: ledger.today,
      person_id: actor.id,
    })),
    // One that is held by hand already stays so.
    { ignore: true },
  )
}

export interface Asked {
  numbers: string[]
  waiting: number | null
}

/** Writes items off, or keeps that for a second person. */
export async function postWriteOff(
  database: Handle,
  actor: Actor,
  body: WriteOffBody,
  idempotency?: Idempotency,
): Promise<Asked> {
  const done = await performOrKeep<{ numbers: string[] }>(database, actor, writeOffCommand, body, idempotency)
  return { numbers: done.done?.numbers ?? [], waiting: done.waiting?.id ?? null }
}

const undoRowCells = z.object({
  customerId: cell.whole,
  customer: cell.text,
  number: cell.text,
  /** Of the tax, where it was claimed later. */
  reliefEntry: cell.whole.nullable(),
  recovered: cell.whole,
})
type UndoRow = z.output<typeof undoRowCells>

async function undoRow(db: Handle, itemId: number): Promise<UndoRow> {
  const [row] = await db.rows(
    undoRowCells,
    `SELECT i.customer_id AS customerId, c.number AS customer, i.number, w.relief_entry_id AS reliefEntry,
      EXISTS (SELECT 1 FROM recovery r WHERE r.write_off_id = i.id
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = r.item_id)) AS recovered
      FROM item i JOIN customer c ON c.id = i.customer_id LEFT JOIN write_off w ON w.item_id = i.id
      WHERE i.id = :itemId AND (w.item_id IS NOT NULL OR i.kind = 'recovery')`,
    { itemId },
  )
  if (!row) throw notFound(`write-off or recovery ${itemId}`)
  return row
}

/** The lines of a later claim of tax, which go back with the write-off. */
async function reliefLines(db: Handle, entryId: number | null): Promise<Omit<Line, 'item' | 'allocation'>[]> {
  if (entryId === null) return []
  return db.find(
    'journal_line',
    { entry_id: entryId },
    {
      columns: {
        account: 'account',
        currency: 'currency',
        amount: 'amount',
        baseAmount: 'base_amount',
        customerId: 'customer_id',
      },
    },
  )
}

/**
 * Takes a write-off back: its item is open again, and tax that was claimed goes back too. Or a recovery: its
 * money is on account again, and the tax that was owed for it goes back.
 */
export const undoWriteOffCommand = command({
  name: 'impairment.undo',
  ability: 'impairment.post',
  input: z.object({ id, reason: z.string().min(1).max(200) }),
  locks: async (db, input) => ({ customers: [(await undoRow(db, input.id)).customerId] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await undoRow(db, input.id)
    const later = await reliefLines(db, row.reliefEntry)
    return {
      row,
      customer: await findCustomer(db, row.customer, {}),
      lines: [
        ...(await loadLines(db, input.id)),
        ...later.map(l => ({ ...l, item: input.id, allocation: null })),
      ],
      ledger: await loadState(
        db,
        { customerIds: [row.customerId], itemIds: [input.id], linksOf: [input.id] },
        settings,
      ),
    }
  },
  decide: ({ row, ledger, lines }, input) => {
    if (Number(row.recovered))
      return refused([
        refuse(
          'write-off.recovered',
          'id',
          `money came back for ${row.number}`,
          'take the recovery back first',
        ),
      ])
    const { id: itemId, reason } = input
    return decided(reverse(ledger, { itemId, date: ledger.today, reason, lines }))
  },
  after: async ({ input }) => ({ id: input.id }),
  about: input => `write-off ${input.id}`,
})

export async function undoWriteOff(
  database: Handle,
  actor: Actor,
  itemId: number,
  reason: string,
  idempotency?: Idempotency,
): Promise<void> {
  await perform(database, actor, undoWriteOffCommand, { id: itemId, reason }, idempotency)
}

interface WaitingRow extends Omit<WaitingRelief, 'evidence'>, OwnerRow {
  insolvent: number
}

const waitingReliefRow = z.object({
  number: cell.text,
  currency: cell.text,
  tax: cell.whole,
  against: z.enum(['allowance', 'expense']),
  writeOffId: cell.whole,
  taxBase: cell.whole,
  insolvent: cell.whole,
  ofItemId: cell.whole,
})

async function waitingRelief(db: Handle): Promise<WaitingRow[]> {
  const rows = await db.rows(
    waitingReliefRow,
    `SELECT w.item_id AS writeOffId, i.number, i.currency, w.tax, w.tax_base AS taxBase, w.against,
      w.of_item_id AS ofItemId, w.reason = 'insolvency' OR EXISTS (SELECT 1 FROM insolvency_claim k
        WHERE k.customer_id = w.customer_id) AS insolvent FROM write_off w
      JOIN item i ON i.id = w.item_id WHERE w.relief = 'waits'
      AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = w.item_id) ORDER BY w.item_id`,
  )
  const owners = new Map((await ownersOf(db, [0, ...rows.map(r => r.ofItemId)])).map(o => [o.itemId, o]))
  return rows.flatMap(r => {
    const owner = owners.get(r.ofItemId)
    return owner ? [{ ...r, ...owner }] : []
  })
}

/** Claims the tax of all write-offs whose conditions hold by now. */
export const reliefCommand = command({
  name: 'impairment.relief',
  ability: 'impairment.post',
  input: z.object({}),
  locks: async db => ({ customers: [...new Set((await waitingRelief(db)).map(w => w.customerId))] }),
  load: async (db, _input, { settings }: { settings: Settings; actor: By }) => ({
    ledger: await loadState(db, { customerIds: [] }, settings),
    policy: settings.impairmentPolicy.relief,
    waiting: (await waitingRelief(db)).map(w => ({
      ...w,
      evidence: evidenceOf(w, Boolean(Number(w.insolvent))),
    })),
  }),
  decide: ({ ledger, policy, waiting }) => {
    const { postings, claimed } = claimRelief(ledger, policy, waiting, ledger.today)
    return { ok: true, postings, facts: claimed }
  },
  after: async ({ db, state, written, facts }) => {
    for (const [n, writeOffId] of facts.entries())
      await db.update(
        'write_off',
        {
          relief: 'claimed',
          relief_on: state.ledger.today,
          relief_entry_id: written[n]!.entryId,
          relief_why: 'its conditions hold by now',
        },
        { item_id: writeOffId },
      )
    const claimed = state.waiting.filter(w => facts.includes(w.writeOffId))
    return { claimed: facts.length, taxBase: claimed.reduce((sum, w) => sum + w.taxBase, 0) }
  },
  tell: ({ facts }) => ({ claimed: facts.length }),
  about: () => 'tax of write-offs',
})

export const claimTax = (database: Handle, actor: Actor, idempotency?: Idempotency) =>
  perform(database, actor, reliefCommand, {}, idempotency)
