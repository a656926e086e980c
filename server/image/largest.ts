import type { Handle } from '../db/handle'
import { askImage } from './index'
import { answer, type Answer, type Ask } from './questions'
import { slicesOf } from './slices'

/** Questions for the largest items of something, with how many there are and their sum. */
type Listing = 'moves' | 'part'
type Item = Answer<Listing>['items'][number]

const largestFirst = (a: Item, b: Item) => Math.abs(b.amount) - Math.abs(a.amount) || a.itemId - b.itemId

/** The largest items, from memory, or from slices of the tables when it is not there. */
export async function largestItems<Name extends Listing>(
  database: Handle,
  name: Name,
  question: Ask<Name>,
): Promise<Answer<Name>> {
  const found = await askImage(database, name, question, 'waits')
  if (found) return found
  const all = { items: [] as Item[], count: 0, total: 0 }
  for await (const books of slicesOf(database, question.wanted)) {
    const more = answer(books, name, question)
    all.items = [...all.items, ...more.items].sort(largestFirst).slice(0, question.limit)
    all.count += more.count
    all.total += more.total
  }
  return all as Answer<Name>
}
