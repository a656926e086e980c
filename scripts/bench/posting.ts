import { performance } from 'node:perf_hooks'
import { int } from '../../server/db/connection'
import { intents, postIntent } from '../../tests/server/post'
import { actor, database, say, small, TODAY } from './base'

const CLIENTS = 8
/** So long until the compiler has seen enough of the code. */
const WARM_SECONDS = small ? 0.5 : 8
const ROUNDS = 6
const ROUND_SECONDS = small ? 0.25 : 3

/** One piece of work; false when there is nothing left to do. */
type Work = () => Promise<boolean>

/** Milliseconds of each piece that eight clients get done in so many seconds, asking without a pause. */
async function eightClients(seconds: number, work: Work): Promise<number[]> {
  const taken: number[] = []
  const end = performance.now() + seconds * 1000
  await Promise.all(
    Array.from({ length: CLIENTS }, async () => {
      for (let start = performance.now(); start < end; start = performance.now()) {
        if (!(await work())) throw new Error('nothing is left to do: the world is too small for this measure')
        taken.push(performance.now() - start)
      }
    }),
  )
  return taken
}

/**
 * Receipts posted beside bare inserts of their rows, turn about: the speed of a machine changes from minute
 * to minute.
 */
export async function posting(): Promise<void> {
  const works = [await receipts(), bareInserts()] as const
  for (const work of works) await eightClients(WARM_SECONDS, work)
  const perSecond: [ours: number, bare: number][] = []
  const taken: number[] = []
  for (let round = 0; round < ROUNDS; round++) {
    const [ours, bare] = [
      await eightClients(ROUND_SECONDS, works[0]),
      await eightClients(ROUND_SECONDS, works[1]),
    ]
    taken.push(...ours)
    perSecond.push([ours.length / ROUND_SECONDS, bare.length / ROUND_SECONDS])
  }
  await removeBare()
  taken.sort((a, b) => a - b)
  const at = (share: number) => taken[Math.floor(taken.length * share)]!.toFixed(0)
  const mean = (which: 0 | 1) => (perSecond.reduce((sum, r) => sum + r[which], 0) / ROUNDS).toFixed(0)
  const ratios = perSecond.map(([ours, bare]) => ours / bare).sort((a, b) => a - b)
  say(
    `${'Receipts posted, 8 clients'.padEnd(44)} ${mean(0)} a second, median ${at(0.5)} ms, 95 % within ` +
      `${at(0.95)} ms`,
  )
  say(
    `${'beside bare inserts of their rows'.padEnd(44)} ${ratios[ROUNDS / 2]!.toFixed(2)} × of ` +
      `${mean(1)} a second (${ratios[0]!.toFixed(2)} to ${ratios.at(-1)!.toFixed(2)} in ${ROUNDS} rounds)`,
  )
}

/** Open items paid in full, one by one. */
async function receipts(): Promise<Work> {
  const open = await database.select<{ id: number; number: string; open: number }>(
    `SELECT o.item_id AS id, c.number, o.open FROM open_item o JOIN customer c ON c.id = o.customer_id
      WHERE o.open > 0 ORDER BY o.item_id LIMIT 20000`,
  )
  return async () => {
    const next = open.pop()
    if (!next) return false
    const ask = {
      customer: next.number,
      date: TODAY,
      text: '',
      means: [{ means: 'transfer' as const, amount: int(next.open), reference: '' }],
      allocations: [{ itemId: next.id, amount: int(next.open) }],
      onAccount: 0,
    }
    await postIntent(database, actor, await intents.receipt(database, ask))
    return true
  }
}

/** Their ids and numbers are far from those of the books. */
const BARE_FROM = 1_000_000_000

/** The bare rows are no books: without them all verifies. */
async function removeBare(): Promise<void> {
  for (const table of ['journal_line', 'allocation'])
    await database.run(`DELETE FROM ${table} WHERE entry_id >= ${BARE_FROM}`)
  await database.run(`DELETE FROM receipt_means WHERE item_id >= ${BARE_FROM}`)
  for (const table of ['item', 'entry']) await database.run(`DELETE FROM ${table} WHERE id >= ${BARE_FROM}`)
}

/**
 * What the machine can do at all: the rows of a receipt inserted as they are, one transaction each.
 */
function bareInserts(): Work {
  let number = BARE_FROM
  const by = { person_id: 1 }
  const day = { document_date: TODAY, due_date: TODAY, posting_date: TODAY }
  return async () => {
    const n = ++number
    await database.transaction(async tx => {
      const [entry] = await tx.insert('entry', [
        { id: n, number: n, date: TODAY, kind: 'receipt', text: '', ...by },
      ])
      const item = {
        id: n,
        customer_id: 1,
        entry_id: entry!,
        kind: 'receipt' as const,
        register: 'bench',
        number: `X${n}`,
        part: 1,
        currency: 'EUR',
        side: 'credit' as const,
        amount: 100,
        base_amount: 100,
        tax: 0,
        ...day,
        ...by,
      }
      const [id] = await tx.insert('item', [item])
      await tx.insert('receipt_means', [
        {
          item_id: id!,
          means: 'transfer',
          amount: 100,
          base_amount: 100,
          reference: '',
          account: '1220',
        },
      ])
      await tx.insert('allocation', [
        {
          id: n,
          customer_id: 1,
          entry_id: entry!,
          debit_item_id: id!,
          credit_item_id: id!,
          amount: 100,
          debit_base: 100,
          credit_base: 100,
          effective: TODAY,
          ...by,
        },
      ])
      const line = { entry_id: entry!, currency: 'EUR', amount: 100, base_amount: 100, customer_id: 1 }
      await tx.insert('journal_line', [
        { ...line, account: '1220', item_id: id! },
        { ...line, account: '1100', item_id: id!, amount: -100, base_amount: -100 },
      ])
      await tx.insert('audit', [{ what: 'bench', about: '', ...by }])
    })
    return true
  }
}
