import { cell } from '../../db/rows'
import { z } from 'zod'
import { id } from '../../../contract/common'
import {
  allowanceBody,
  type AllowanceAnswer,
  type AllowanceBody,
  type AllowanceRunRow,
} from '../../../contract/allowance'
import { bucketsOf } from '../../../core/aging'
import { lastMonthEnd, type IsoDate } from '../../../core/calendar'
import { CASE_KINDS, decideAllowance, type AllowanceCell } from '../../../core/impairment'
import { WHOLE } from '../../../core/money'
import { dateRefusals, refuse, refused, type Line, type LedgerState } from '../../../core/ledger'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { prove } from '../books/proof'
import { notFound } from '../common/problems'
import { sheetFile, type SheetFile } from '../common/sheet'
import type { Actor } from '../people/scope'
import { workOut, type WorkedOut } from './workOut'

/**
 * Posts the difference between what should be set aside and what is. No posting goes on meanwhile: what it is
 * worked out from holds still.
 */
export const allowanceCommand = command({
  name: 'impairment.allowance',
  ability: 'impairment.post',
  input: allowanceBody,
  locks: async () => ({ settings: 'change' as const }),
  steady: true,
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => ({
    ledger: await loadState(db, { customerIds: [] }, settings),
    workedOut: await workOut(db, settings, input),
  }),
  decide: ({ ledger, workedOut }) => {
    const { ask, allowance, posted, date, standing } = workedOut
    return decideAllowance({ ledger, allowance, posted, date, standing }, ask)
  },
  after: async ({ db, input, state, actor, written, facts }) => {
    const { allowance, bounds } = state.workedOut
    const difference = facts.reduce((sum, d) => sum + d.base, 0)
    const [runId] = await db.insert('allowance_run', [
      {
        date: input.date,
        live: 1,
        factor: input.factor,
        reason: input.reason,
        bounds: bounds.join(','),
        allowance: allowance.totals.reduce((sum, t) => sum + t.base, 0),
        difference,
        entry_id: written[0]?.entryId ?? null,
        person_id: actor.id,
      },
    ])
    await db.insert(
      'allowance_cell',
      allowance.cells.map(c => ({
        run_id: runId!,
        risk_class: c.riskClass,
        currency: c.currency,
        band: c.band,
        gross_base: c.grossBase,
        exposed_base: c.exposedBase,
        rate: c.rate,
        allowance: c.allowance,
        allowance_base: c.allowanceBase,
      })),
    )
    await db.insert(
      'allowance_named',
      allowance.named.map(n => ({
        run_id: runId!,
        case_id: n.id,
        currency: n.currency,
        gross: n.gross,
        rate: n.rate,
        allowance: n.allowance,
        allowance_base: n.allowanceBase,
      })),
    )
    return { id: runId!, difference }
  },
  about: input => `allowance of ${input.date}`,
})

export const postAllowance = (
  database: Handle,
  actor: Actor,
  body: AllowanceBody,
  idempotency?: Idempotency,
): Promise<{ id: number; difference: number }> =>
  perform(database, actor, allowanceCommand, body, idempotency)

export const proveAllowance = (database: Handle, actor: Actor, body: AllowanceBody) =>
  prove(database, actor, allowanceCommand, body)

const runRowCells = z.object({
  id: cell.whole,
  date: cell.day,
  entryId: cell.whole.nullable(),
  live: cell.whole.nullable(),
  later: cell.whole,
})
type RunRow = z.output<typeof runRowCells>

async function runRow(db: Handle, runId: number): Promise<RunRow> {
  const [row] = await db.rows(
    runRowCells,
    `SELECT r.id, r.date, r.entry_id AS entryId, r.live,
      EXISTS (SELECT 1 FROM allowance_run x WHERE x.live = 1 AND x.date > r.date) AS later
      FROM allowance_run r WHERE r.id = :runId`,
    { runId },
  )
  if (!row) throw notFound(`allowance ${runId}`)
  return row
}

function undoRefusals(ledger: LedgerState, run: RunRow) {
  if (run.live === null)
    return [
      refuse('allowance.undone', 'id', `the allowance of ${run.date} was taken back before`, 'run it anew'),
    ]
  if (Number(run.later))
    return [
      refuse(
        'allowance.later',
        'id',
        `a later allowance was built on that of ${run.date}`,
        'take the last back first',
      ),
    ]
  return dateRefusals(ledger, run.date, 'id')
}

/** Takes the last allowance back on its own day, so that the same day can be worked out anew. */
export const undoAllowanceCommand = command({
  name: 'impairment.allowanceUndo',
  ability: 'impairment.post',
  input: z.object({ id, reason: z.string().min(1).max(200) }),
  locks: async () => ({ settings: 'change' as const }),
  steady: true,
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const run = await runRow(db, input.id)
    return {
      run,
      ledger: await loadState(db, { customerIds: [] }, settings),
      lines: await db.find(
        'journal_line',
        { entry_id: run.entryId ?? 0 },
        {
          columns: {
            account: 'account',
            currency: 'currency',
            amount: 'amount',
            baseAmount: 'base_amount',
            customerId: 'customer_id',
          },
          order: ['id'],
        },
      ),
    }
  },
  decide: ({ run, ledger, lines }, { reason }) => {
    const refusals = undoRefusals(ledger, run)
    if (refusals.length) return refused(refusals)
    const back = lines.map((l): Line => {
      const { amount, baseAmount } = l
      return { ...l, amount: -amount, baseAmount: -baseAmount, item: null, allocation: null }
    })
    const text = `Allowance of ${run.date} taken back: ${reason}`
    const posting = {
      kind: 'correction' as const,
      date: run.date,
      text,
      items: [],
      allocations: [],
      lines: back,
    }
    return { ok: true, postings: back.length ? [posting] : [], facts: null }
  },
  after: async ({ db, input, written }) => {
    await db.update(
      'allowance_run',
      { live: null, undone_entry_id: written[0]?.entryId ?? null, undone_why: input.reason },
      { id: input.id },
    )
    return { id: input.id }
  },
  about: input => `allowance ${input.id}`,
})

export async function undoAllowance(
  database: Handle,
  actor: Actor,
  runId: number,
  reason: string,
  idempotency?: Idempotency,
): Promise<void> {
  await perform(database, actor, undoAllowanceCommand, { id: runId, reason }, idempotency)
}

export interface AllowanceQuery {
  date?: IsoDate
  factor: number
  reason: string
}

interface Sums {
  gross: number
  borne: number
  named: number
  exposed: number
  allowance: number
}

/** Sums of cells in base currency. What is borne and named is told in the currency of the claims only. */
function sumOf(cells: readonly AllowanceCell[]): Sums {
  const sums: Sums = { gross: 0, borne: 0, named: 0, exposed: 0, allowance: 0 }
  for (const c of cells) {
    sums.gross += c.grossBase
    sums.borne += c.borneBase
    sums.named += c.namedBase
    sums.exposed += c.exposedBase
    sums.allowance += c.allowanceBase
  }
  return sums
}

/** Hundredths of a per cent that an allowance is of what is exposed. */
const rateOf = ({ allowance, exposed }: Sums): number => (exposed > 0 ? (allowance * WHOLE) / exposed : 0)

function answerOf(base: string, found: WorkedOut): AllowanceAnswer {
  const { allowance, posted, difference, cases, bounds } = found
  const bands = bucketsOf(bounds).map(b => b.label)
  const collective = allowance.cells.reduce((sum, c) => sum + c.allowanceBase, 0)
  const namedSum = allowance.named.reduce((sum, n) => sum + n.allowanceBase, 0)
  const all = sumOf(allowance.cells)
  const classes = [...new Set(allowance.cells.map(c => c.riskClass))].sort()
  return {
    date: found.date,
    base,
    bands,
    byBand: bands.map((_, band) => {
      const sums = sumOf(allowance.cells.filter(c => c.band === band))
      const ofNamed = allowance.namedByBand[band] ?? 0
      return { band, ...sums, rate: rateOf(sums), net: sums.gross - sums.allowance - ofNamed }
    }),
    byClass: classes.map(riskClass => {
      const own = allowance.cells.filter(c => c.riskClass === riskClass)
      return { riskClass, count: own.length, ...sumOf(own) }
    }),
    cells: allowance.cells,
    named: allowance.named.flatMap(n => {
      const one = cases.find(c => c.id === n.id)
      if (!one) return []
      const { customerId: _, ...figures } = n
      const customer = { number: one.customer, name: one.customerName }
      return [{ ...figures, customer, item: one.item, kind: one.kind, text: one.text }]
    }),
    totals: {
      gross: all.gross,
      collective,
      named: namedSum,
      allowance: collective + namedSum,
      net: all.gross - collective - namedSum,
    },
    differences: allCurrencies(allowance.totals, posted).map(currency => {
      const of = (list: readonly { currency: string; amount: number; base: number }[]) =>
        list.find(t => t.currency === currency) ?? { amount: 0, base: 0 }
      const [should, is, differs] = [of(allowance.totals), of(posted), of(difference)]
      return {
        currency,
        amount: should.amount,
        base: should.base,
        posted: is.amount,
        postedBase: is.base,
        difference: differs.amount,
        differenceBase: differs.base,
      }
    }),
    bridge: found.bridge,
  }
}

const allCurrencies = (...lists: (readonly { currency: string }[])[]): string[] =>
  [...new Set(lists.flat().map(t => t.currency))].sort()

/** The allowance of a day, worked out and not posted. */
export async function readAllowance(database: Handle, q: AllowanceQuery): Promise<AllowanceAnswer> {
  const settings = await readSettings(database)
  const date = q.date ?? lastMonthEnd(settings.today)
  return answerOf(settings.base, await workOut(database, settings, { ...q, date }))
}

/** Its cells and named cases as a file, for the note to the accounts. */
export async function exportAllowance(
  database: Handle,
  q: AllowanceQuery & { format: 'csv' | 'xlsx' },
): Promise<SheetFile> {
  const { base, date, bands, cells, named, totals } = await readAllowance(database, q)
  const money = (header: string) => ({ header, currency: base })
  return sheetFile(
    `allowance-${date}`,
    q.format,
    [
      { header: 'part', width: 12 },
      { header: 'class or case', width: 34 },
      { header: 'currency', width: 10 },
      { header: 'age', width: 12 },
      ...['gross', 'insured', 'judged by name', 'exposed'].map(money),
      { header: 'rate %', width: 10 },
      ...['allowance', 'net'].map(money),
    ],
    [
      ...cells.map(c => [
        ...['matrix', c.riskClass || 'no class', c.currency, bands[c.band]!],
        ...[c.grossBase, c.borneBase, c.namedBase, c.exposedBase, c.rate / 100, c.allowanceBase],
        c.grossBase - c.namedBase - c.allowanceBase,
      ]),
      ...named.map(n => [
        ...[
          'named',
          `${n.customer.number} ${n.customer.name}, ${CASE_KINDS[n.kind].toLowerCase()}`,
          n.currency,
          '',
        ],
        ...[n.base, 0, n.base, n.base, n.rate / 100, n.allowanceBase, n.base - n.allowanceBase],
      ]),
    ],
    ['total', '', base, '', totals.gross, null, null, null, null, totals.allowance, totals.net],
  )
}

const listAllowancesRow = z.object({
  id: cell.whole,
  date: cell.text,
  difference: cell.whole,
  allowance: cell.whole,
  reason: cell.text,
  factor: cell.whole,
  entry: cell.whole.nullable(),
  by: cell.text,
  live: cell.whole.nullable(),
  last: cell.flag.nullable(),
})

/** Allowances that were posted, the newest first. */
export async function listAllowances(database: Handle): Promise<{ items: AllowanceRunRow[]; base: string }> {
  const { base } = await readSettings(database)
  const rows = await database.rows(
    listAllowancesRow,
    `SELECT r.id, r.date, r.factor, r.reason, r.allowance, r.difference, e.number AS entry, r.live, p.name AS \`by\`,
      r.live = 1 AND NOT EXISTS (SELECT 1 FROM allowance_run x WHERE x.live = 1 AND x.date > r.date) AS last
      FROM allowance_run r JOIN person p ON p.id = r.person_id LEFT JOIN entry e ON e.id = r.entry_id
      ORDER BY r.date DESC, r.id DESC LIMIT 200`,
  )
  return {
    base,
    items: rows.map(({ live, last, ...r }) => ({ ...r, undone: live === null, last: Boolean(Number(last)) })),
  }
}
