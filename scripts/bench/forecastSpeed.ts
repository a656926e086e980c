import { performance } from 'node:perf_hooks'
import { forecastQuery, whatIf } from '../../contract/forecast'
import { imageHere, keepImage } from '../../server/image'
import { forecastIf, readForecast } from '../../server/services/forecast/forecast'
import { database } from './base'
import { tell } from './image'

async function seconds<T>(what: string, goal: number, work: () => Promise<T>): Promise<T> {
  const begun = performance.now()
  const made = await work()
  tell(what, `${((performance.now() - begun) / 1000).toFixed(2)} s (goal ${goal})`)
  return made
}

/** The forecast of all open items for 13 weeks, and one what-if on a customer. */
export async function forecastSpeed(): Promise<void> {
  const image = imageHere(database)
  keepImage(database, image)
  await seconds('The ledger read into memory, once', 30, () => image.ask('known', { asOf: 0 }))
  const query = forecastQuery.parse({})
  const first = await seconds('Forecast of 13 weeks, learnt anew', 30, () => readForecast(database, query))
  await seconds('The same asked again', 30, () => readForecast(database, query))
  const [customer] = first.customers
  const later = whatIf.parse({ customers: [{ customer: customer!.number, days: 30 }] })
  await seconds('What if one customer pays 30 days later', 0.3, () => forecastIf(database, query, later))
  tell('Memory', `${(process.memoryUsage().rss / 1e6).toFixed(0)} MB (goal 1,500)`)
}
