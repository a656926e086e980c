import { performance } from 'node:perf_hooks'
import { agingQuery } from '../../contract/aging'
import { keepImage, imageHere, imageSize } from '../../server/image'
import { Image } from '../../server/image/image'
import { imageDifferences } from '../../server/image/verify'
import { readAging } from '../../server/services/aging/aging'
import { intents, postIntent } from '../../tests/server/post'
import { actor, database, say, TODAY } from './base'

const tell = (what: string, result: string) => say(`${what.padEnd(44)} ${result}`)

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

/** Holds the image against the tables: told, and thrown when they differ. */
export async function imageRight(): Promise<void> {
  const differences = await imageDifferences(database, new Image(database))
  if (differences.length) throw new Error(`memory and tables differ: ${JSON.stringify(differences[0])}`)
  say('The ledger in memory equals the tables')
}
