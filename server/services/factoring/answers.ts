import { cell } from '../../db/rows'
import { createHash } from 'node:crypto'
import { z } from 'zod'
import {
  ANSWER_KINDS,
  decideAnswer,
  type AnswerKind,
  type AnswerLine,
  type FactorItem,
} from '../../../core/factoring'
import { isIsoDate } from '../../../core/calendar'
import { CsvFault } from '../../../formats/csv'
import { readAnswerFile } from '../../../formats/factoring'
import { chunksOf, type Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform, wouldDecide, type By, type Idempotency } from '../../ledger/command'
import { loadLinesOf, loadState } from '../../ledger/load'
import { factorPort } from '../../wiring'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { facilityByCode } from './facilities'

const line = z.object({
  kind: z.enum(Object.keys(ANSWER_KINDS) as [AnswerKind, ...AnswerKind[]]),
  schedule: z.string().max(20),
  invoice: z.string().max(40),
  date: z.string().refine(isIsoDate),
  currency: z.string().length(3),
  amount: z.int(),
  settlement: z.string().max(40),
  text: z.string().max(200),
})

interface ItemRow extends FactorItem {
  scheduleId: number
}

const CHUNK = 5000

const itemsOfRow = z.object({
  scheduleId: cell.whole,
  id: cell.whole,
  itemId: cell.whole,
  number: cell.text,
  schedule: cell.text,
  customerId: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  base: cell.whole,
  state: z.enum(['collected', 'refused', 'sent', 'accepted', 'back']),
  advance: cell.whole,
  collected: cell.whole,
  commission: cell.whole,
  commissionTax: cell.whole,
  interest: cell.whole,
  repaid: cell.whole,
  saleItemId: cell.whole.nullable(),
  acceptedOn: cell.day.nullable(),
  advancedOn: cell.day.nullable(),
  collectedOn: cell.day.nullable(),
})

/** What lies with a factor of the schedules that are named. */
async function itemsOf(db: Handle, facilityId: number, schedules: readonly string[]): Promise<ItemRow[]> {
  const rows: ItemRow[] = []
  for (const some of chunksOf([...new Set(schedules)], CHUNK))
    rows.push(
      ...(await db.rows(
        itemsOfRow,
        `SELECT t.id, t.item_id AS itemId, i.number, s.number AS schedule, s.id AS scheduleId,
          t.customer_id AS customerId, s.currency, t.amount, t.base, t.state, t.advance, t.collected, t.commission,
          t.commission_tax AS commissionTax, t.interest, t.repaid, t.sale_item_id AS saleItemId,
          t.accepted_on AS acceptedOn, t.advanced_on AS advancedOn, t.collected_on AS collectedOn
          FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id JOIN item i ON i.id = t.item_id
          WHERE s.facility_id = :facilityId AND s.number IN (:some) AND s.state <> 'taken-back' ORDER BY t.id`,
        { facilityId, some },
      )),
    )
  return rows
}

const schedulesIn = (lines: readonly AnswerLine[]) => lines.map(l => l.schedule)

const answerCommandRow = z.object({
  settlement: cell.text,
})

/** Takes in what a factor tells. All lines are posted, or none. */
export const answerCommand = command({
  name: 'factoring.answer',
  ability: 'factoring.run',
  input: z.object({
    facility: z.string(),
    name: z.string().max(120),
    hash: z.string().length(64),
    lines: z.array(line).max(50_000),
  }),
  locks: async (db, input) => {
    const facility = await facilityByCode(db, input.facility)
    const items = await itemsOf(db, facility.id, schedulesIn(input.lines))
    return { facilities: [facility.id], customers: [...new Set(items.map(i => i.customerId))] }
  },
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const facility = await facilityByCode(db, input.facility)
    const items = await itemsOf(db, facility.id, schedulesIn(input.lines))
    const named = new Set(input.lines.map(l => `${l.schedule} ${l.invoice}`))
    const touched = items.filter(i => named.has(`${i.schedule} ${i.number}`))
    const sales = touched.flatMap(i => (i.saleItemId === null ? [] : [i.saleItemId]))
    const settled = await db.rows(
      answerCommandRow,
      `SELECT DISTINCT e.settlement FROM factor_event e JOIN factor_answer a ON a.id = e.answer_id
        WHERE a.facility_id = :facilityId AND e.settlement IN (:wanted)`,
      { facilityId: facility.id, wanted: ['', ...input.lines.map(l => l.settlement)].slice(0, CHUNK) },
    )
    const ledger = await loadState(
      db,
      {
        customerIds: [...new Set(touched.map(i => i.customerId))],
        itemIds: [...touched.map(i => i.itemId), ...sales],
        linksOf: sales,
      },
      settings,
    )
    for (const [itemId, lines] of await loadLinesOf(db, sales)) ledger.lines.set(itemId, lines)
    return {
      facility,
      items,
      settled: new Set(settled.map(s => s.settlement).filter(Boolean)),
      ledger,
    }
  },
  decide: (state, input) => decideAnswer(state, input.lines),
  after: async ({ db, input, state, actor, written, facts }) => {
    const [answerId] = await db.insert('factor_answer', [
      {
        facility_id: state.facility.id,
        file_name: input.name,
        file_hash: input.hash,
        person_id: actor.id,
      },
    ])
    const saleOf = new Map(facts.saleOf.map(s => [s.itemId, written[s.posting]!.items[0]!.id]))
    await keepItems(db, state.items, facts.items, saleOf)
    await keepEvents(db, answerId!, state.items, input.lines, facts.lineOf, written)
    return { lines: input.lines.length }
  },
  tell: ({ input }) => ({ ...input, lines: `${input.lines.length} lines` }),
  about: input => `answer of ${input.facility}`,
})

/** Of the items only those that changed are written. */
async function keepItems(
  db: Handle,
  before: readonly ItemRow[],
  after: readonly FactorItem[],
  saleOf: ReadonlyMap<number, number>,
): Promise<void> {
  const was = new Map(before.map(i => [i.id, JSON.stringify(i)]))
  for (const item of after) {
    const sale = saleOf.get(item.itemId) ?? item.saleItemId
    if (was.get(item.id) === JSON.stringify({ ...item, saleItemId: sale })) continue
    await db.run(
      `UPDATE factor_item SET state = :state, advance = :advance, collected = :collected, commission = :commission,
        commission_tax = :commissionTax, interest = :interest, repaid = :repaid, sale_item_id = :sale,
        accepted_on = :acceptedOn, advanced_on = :advancedOn, collected_on = :collectedOn,
        live = IF(:gone, NULL, live) WHERE id = :id`,
      { ...item, sale, gone: item.state === 'refused' || item.state === 'back' ? 1 : 0 },
    )
  }
}

async function keepEvents(
  db: Handle,
  answerId: number,
  items: readonly ItemRow[],
  lines: readonly AnswerLine[],
  lineOf: readonly number[],
  written: readonly { entryId: number }[],
): Promise<void> {
  const itemBy = new Map(items.map(i => [`${i.schedule} ${i.number}`, i]))
  const scheduleBy = new Map(items.map(i => [i.schedule, i.scheduleId]))
  const entryOf = new Map(lineOf.map((n, posting) => [n, written[posting]!.entryId]))
  await db.insert(
    'factor_event',
    lines.map((l, n) => ({
      answer_id: answerId,
      schedule_id: scheduleBy.get(l.schedule) ?? null,
      factor_item_id: itemBy.get(`${l.schedule} ${l.invoice}`)?.id ?? null,
      kind: l.kind,
      on_date: l.date,
      currency: l.currency,
      amount: l.amount,
      settlement: l.settlement,
      text: l.text,
      entry_id: entryOf.get(n) ?? null,
    })),
  )
}

interface AnswerFile {
  facility: string
  name: string
  csv: string
}

const hashOf = (csv: string): string => createHash('sha256').update(csv).digest('hex')

/** What its Command is asked. Throws 422 with the lines that cannot be read. */
const askOf = ({ facility, name, csv }: AnswerFile): z.input<typeof answerCommand.input> => ({
  ...{ facility, name },
  hash: hashOf(csv),
  lines: readLines(csv),
})

function readLines(csv: string): AnswerLine[] {
  try {
    return readAnswerFile(csv)
  } catch (error) {
    if (!(error instanceof CsvFault)) throw error
    throw new ProblemError(
      422,
      'Not an answer of a factor',
      `line ${error.line}: ${error.message}`,
      error.all.map(f => ({ path: `line ${f.line}`, message: f.message })),
    )
  }
}

/** Takes a file in; the same one again changes nothing. */
export async function takeFactorAnswer(
  database: Handle,
  actor: Actor,
  file: AnswerFile,
  idempotency?: Idempotency,
): Promise<{ lines: number; known: boolean }> {
  if (await isKnown(database, file)) return { lines: 0, known: true }
  const { lines } = await perform(database, actor, answerCommand, askOf(file), idempotency)
  return { lines, known: false }
}

async function isKnown(db: Handle, { facility, csv }: AnswerFile): Promise<boolean> {
  const { id: facilityId } = await facilityByCode(db, facility)
  const [there] = await db.find(
    'factor_answer',
    { facility_id: facilityId, file_hash: hashOf(csv) },
    { columns: ['id'] },
  )
  return there !== undefined
}

/** What is in the way of a file; empty when nothing is. Nothing is posted. */
async function faultOf(db: Handle, actor: Actor, file: AnswerFile): Promise<string> {
  try {
    const { decided } = await wouldDecide(db, actor, answerCommand, askOf(file))
    return decided.ok ? '' : decided.refusals.map(r => r.message).join('; ')
  } catch (error) {
    if (error instanceof ProblemError) return error.message
    throw error
  }
}

export interface WaitingAnswer {
  facility: string
  file: string
  /** What is in its way; empty when it would be taken. */
  fault: string
}

/** Files that factors left and that were not taken in yet, oldest first. */
export async function waitingAnswers(db: Handle, actor: Actor): Promise<WaitingAnswer[]> {
  const port = factorPort()
  const factors = await db.find('factor_facility', {}, { columns: ['id', 'code'], order: ['code'] })
  const waiting: WaitingAnswer[] = []
  for (const { id: facilityId, code: facility } of factors) {
    const taken = await db.find(
      'factor_answer',
      { facility_id: facilityId },
      { columns: { name: 'file_name' } },
    )
    const names = new Set(taken.map(t => t.name))
    let heldUpBy = ''
    for (const name of port.files(facility).filter(n => !names.has(n))) {
      const file = { facility, name, csv: port.read(facility, name) }
      if (await isKnown(db, file)) continue
      const fault = heldUpBy ? `waits for ${heldUpBy}` : await faultOf(db, actor, file)
      if (fault) heldUpBy ||= name
      waiting.push({ facility, file: name, fault })
    }
  }
  return waiting
}

/** Takes in what factors left in their folders, oldest first. One that cannot be taken holds up the later. */
export async function takeFactorFiles(
  database: Handle,
  actor: Actor,
): Promise<{ taken: number; faults: { file: string; fault: string }[] }> {
  const port = factorPort()
  const faults: { file: string; fault: string }[] = []
  let taken = 0
  const factors = await database.find('factor_facility', {}, { columns: ['code'], order: ['code'] })
  for (const { code } of factors)
    for (const name of port.files(code)) {
      try {
        const { known } = await takeFactorAnswer(database, actor, {
          facility: code,
          name,
          csv: port.read(code, name),
        })
        if (!known) taken++
      } catch (error) {
        if (!(error instanceof ProblemError || error instanceof LedgerRefused)) throw error
        faults.push({ file: `${code}/${name}`, fault: error.message })
        break
      }
    }
  return { taken, faults }
}
