import { z } from 'zod'
import { cell } from '../../db/rows'
import {
  forecastQuery,
  whatIf as whatIfBody,
  type ComparedWhatIf,
  type ForecastAnswer,
  type KeptWhatIf,
} from '../../../contract/forecast'
import { bandUntil } from '../../../core/forecast'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { findCustomers } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { forecastIf, readForecast } from './forecast'
import { gather, type Query, type WhatIf } from './gather'

/*
 * What-ifs that are kept by a name, and held side by side. Nothing of them touches the ledger.
 */

const rowCells = z.object({
  id: cell.whole,
  name: cell.text,
  body: cell.text,
  by: cell.text,
  onDate: cell.day,
})
type Row = z.output<typeof rowCells>

const readRows = (db: Handle): Promise<Row[]> =>
  db.rows(
    rowCells,
    `SELECT w.id, w.name, w.body, p.name AS \`by\`, w.on_date AS onDate FROM what_if w
      JOIN person p ON p.id = w.person_id WHERE w.ended_on IS NULL ORDER BY w.id`,
  )

/** What is otherwise, a sentence each. Names are those of today. */
async function wordsOf(db: Handle, list: readonly WhatIf[]): Promise<string[][]> {
  const found = await findCustomers(
    db,
    list.flatMap(w => w.customers.map(c => c.customer)),
  )
  const payments = await db.find(
    'planned_payment',
    { id: [0, ...list.flatMap(w => w.payments.map(p => p.id))] },
    { columns: ['id', 'name'] },
  )
  const paymentOf = new Map(payments.map(p => [p.id, p.name]))
  return list.map(w => [
    ...w.customers.map(({ customer, ...c }) => {
      const name = found.get(customer)?.name ?? customer
      return c.never ? `${name} does not pay` : `${name} ${daysWords(c.days)}${discountWords(c.discount)}`
    }),
    ...w.payments.map(p => `${paymentOf.get(p.id) ?? `payment ${p.id}`} is held for ${p.days} days`),
    ...(w.sell ? [`${w.sell.itemIds.length} invoices go to the factor ${w.sell.facility}`] : []),
    ...w.rates.map(r => `${r.currency} is worth ${Math.abs(r.perCent)} % ${r.perCent < 0 ? 'less' : 'more'}`),
    ...(w.campaign ? ['all who are overdue are reminded now'] : []),
    ...(w.stopHeld ? ['nothing more is shipped to held accounts'] : []),
  ])
}

const daysWords = (days: number): string =>
  days === 0 ? 'pays as usual' : `pays ${Math.abs(days)} days ${days < 0 ? 'sooner' : 'later'}`
const discountWords = (points: number): string => (points ? ` for ${points / 100} % of discount` : '')

export async function listWhatIfs(db: Handle): Promise<{ items: KeptWhatIf[] }> {
  const rows = await readRows(db)
  const bodies = rows.map(r => whatIfBody.parse(JSON.parse(r.body)))
  const words = await wordsOf(db, bodies)
  return {
    items: rows.map(({ body: _, ...row }, n) => ({ ...row, words: words[n]!, whatIf: bodies[n]! })),
  }
}

const isEmpty = (w: WhatIf): boolean =>
  !w.customers.length && !w.payments.length && !w.sell && !w.rates.length && !w.campaign && !w.stopHeld

/** Keeps a what-if by a name. Throws 422 when it cannot be tried, or nothing is otherwise. */
export async function keepWhatIf(
  db: Handle,
  actor: Actor,
  { name, whatIf }: { name: string; whatIf: WhatIf },
): Promise<{ id: number }> {
  if (isEmpty(whatIf))
    throw new ProblemError(422, 'Nothing is otherwise', 'this is the forecast as it is', [
      { path: 'whatIf', message: 'empty', satisfy: 'say what is otherwise' },
    ])
  await gather(db, forecastQuery.parse({}), whatIf)
  const { today } = await readSettings(db)
  return db.transaction(async tx => {
    const [same] = await tx.find('what_if', { name, ended_on: null }, { columns: ['id'], lock: true })
    if (same)
      throw new ProblemError(409, 'Taken', `a what-if named ${name} is kept already`, [
        { path: 'name', message: 'taken', satisfy: 'choose another name' },
      ])
    const body = JSON.stringify(whatIf)
    const [id] = await tx.insert('what_if', [{ name, body, on_date: today, person_id: actor.id }])
    await audit(tx, actor.id, 'what if', String(id), null, name)
    return { id: id! }
  })
}

export async function endWhatIf(db: Handle, actor: Actor, id: number): Promise<void> {
  const { today } = await readSettings(db)
  await db.transaction(async tx => {
    const done = await tx.run('UPDATE what_if SET ended_on = :today WHERE id = :id AND ended_on IS NULL', {
      ...{ id, today },
    })
    if (!done.affectedRows) throw notFound(`what-if ${id}`, 'it may be kept no more')
    await audit(tx, actor.id, 'what if', String(id), 'kept', 'kept no more')
  })
}

/** Within four weeks: what can still be steered. */
const SOON_WEEKS = 4

function summaryOf(f: ForecastAnswer): Omit<ComparedWhatIf, 'id' | 'name' | 'words' | 'trouble'> {
  const last = f.balance.at(-1)
  const lowest = f.balance.reduce<ForecastAnswer['balance'][number] | null>(
    (low, day) => (low === null || day.p50 < low.p50 ? day : low),
    null,
  )
  const within = (count: number): number => f.weeks.slice(0, count).reduce((sum, w) => sum + w.mean, 0)
  return {
    end: last ? bandUntil(f.asOf, last) : null,
    lowest: lowest && { date: lowest.date, amount: lowest.p50 },
    below: last?.below ?? null,
    crossing: f.crossing?.date ?? null,
    net: [within(SOON_WEEKS), within(f.weeks.length)],
  }
}

const UNTRIED = { end: null, lowest: null, below: null, crossing: null, net: [] }

/** All that are kept, each tried on its own, beside the forecast as it is. */
export async function compareWhatIfs(
  db: Handle,
  q: Query,
): Promise<{ currency: string; items: ComparedWhatIf[] }> {
  const { items } = await listWhatIfs(db)
  const base = await readForecast(db, q)
  const compared: ComparedWhatIf[] = [
    { id: null, name: 'As it is', words: [], trouble: '', ...summaryOf(base) },
  ]
  for (const { id, name, words, whatIf } of items) {
    const told = { id, name, words }
    try {
      const answer = await forecastIf(db, q, whatIfBody.parse(whatIf))
      const { sooner } = answer.learnt
      const effect = sooner === null ? [] : [`by what worked ${sooner} days sooner`]
      compared.push({ ...told, words: [...words, ...effect], trouble: '', ...summaryOf(answer) })
    } catch (error) {
      // A payment that was made, or a customer that is gone: the others are tried all the same.
      if (!(error instanceof ProblemError) || error.status !== 422) throw error
      compared.push({ ...told, trouble: error.message, ...UNTRIED })
    }
  }
  return { currency: base.currency, items: compared }
}
