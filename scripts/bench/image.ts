import { performance } from 'node:perf_hooks'
import { agingQuery, compareQuery } from '../../contract/aging'
import { keepImage, imageHere, imageSize } from '../../server/image'
import { Image } from '../../server/image/image'
import { imageDifferences } from '../../server/image/verify'
import { readAging } from '../../server/services/aging/aging'
import { compareAging } from '../../server/services/aging/compare'
import { checkExposure } from '../../server/services/exposure/exposure'
import { intents, postIntent } from '../../tests/server/post'
import { actor, CUSTOMERS, database, say, small, TODAY } from './base'

export const tell = (what: string, result: string) => say(`${what.padEnd(44)} ${result}`)

/** Fills the ledger in memory, and lets it answer from now on. */
export async function fillImage(): Promise<void> {
  const started = performance.now()
  keepImage(database, imageHere(database))
  await readAging(database, agingQuery.parse({ limit: 1 }), {})
  const seconds = (performance.now() - started) / 1000
  const { bytes, items } = imageSize(database)!
  tell(
    `The ledger in memory, ${items.toLocaleString('en')} items`,
    `filled in ${seconds.toFixed(1)} s (goal 15); ${(bytes / items).toFixed(0)} bytes an item (goal 120)`,
  )
}

/** From the answer of a posting to an aging that holds it. */
export async function visible(): Promise<void> {
  const times: number[] = []
  for (let n = 0; n < 15; n++) {
    const receipt = await intents.receipt(database, {
      customer: 'B000001',
      date: TODAY,
      means: [{ means: 'transfer', amount: 100 + n }],
      onAccount: 100 + n,
    })
    const before = (await readAging(database, agingQuery.parse({ limit: 1 }), {})).totals.total
    await postIntent(database, actor, receipt)
    const posted = performance.now()
    const after = (await readAging(database, agingQuery.parse({ limit: 1 }), {})).totals.total
    if (after !== before - 100 - n) throw new Error('a posting is not in the next answer')
    times.push(performance.now() - posted)
  }
  times.sort((a, b) => a - b)
  tell('A posting seen in the next aging', `median ${times[7]!.toFixed(0)} ms (goal 50)`)
}

const middle = (times: number[]) => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!

export async function timed(times: number, work: (n: number) => Promise<unknown>): Promise<number> {
  await work(0)
  const taken: number[] = []
  for (let n = 1; n <= times; n++) {
    const started = performance.now()
    await work(n)
    taken.push(performance.now() - started)
  }
  return middle(taken)
}

/** A comparison of two days beside one aging of a past day. */
export async function comparison(): Promise<void> {
  const one = await timed(7, () => readAging(database, agingQuery.parse({ asOf: '2026-06-30' }), {}))
  const both = await timed(7, () =>
    compareAging(database, compareQuery.parse({ from: '2026-06-30', to: TODAY }), {}),
  )
  tell('Comparison of two days', `${both.toFixed(0)} ms, ${(both / one).toFixed(2)} × one aging (goal 3)`)
}

/** The check of an order, alone and asked by sixteen at once. */
export async function checks(): Promise<void> {
  const customer = (n: number) => `B${String(1 + ((n * 37) % CUSTOMERS)).padStart(6, '0')}`
  const check = (n: number) =>
    checkExposure(database, { customer: customer(n), currency: 'EUR', amount: 100_000 }, {})
  const one = await timed(60, check)
  const asked = small ? 300 : 1500
  const started = performance.now()
  let next = 0
  await Promise.all(
    Array.from({ length: 16 }, async () => {
      while (next < asked) await check(next++)
    }),
  )
  const second = asked / ((performance.now() - started) / 1000)
  tell(
    'Check of an order',
    `median ${one.toFixed(1)} ms (goal 20); sixteen at once ${second.toFixed(0)} a second (goal 300)`,
  )
}

/** Holds the image against the tables: told, and thrown when they differ. */
export async function imageRight(): Promise<void> {
  const differences = await imageDifferences(database, new Image(database))
  if (differences.length) throw new Error(`memory and tables differ: ${JSON.stringify(differences[0])}`)
  say('The ledger in memory equals the tables')
}
