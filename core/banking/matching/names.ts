import type { MatchCustomer } from './types'

// Legal forms and little words that tell no two customers apart.
const LITTLE = new Set([
  'gmbh',
  'ltd',
  'limited',
  'sarl',
  'sa',
  'as',
  'asa',
  'bv',
  'nv',
  'srl',
  'spa',
  'inc',
  'plc',
  'llc',
  'kg',
  'ag',
  'co',
  'company',
  'and',
  'the',
  'of',
  'de',
  'du',
  'et',
  'und',
  'og',
  'mr',
  'mrs',
])
export const wordsOf = (name: string): string[] =>
  name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/ø/g, 'o')
    .replace(/æ/g, 'ae')
    .replace(/ß/g, 'ss')
    .split(/[^a-z0-9]+/)
    .filter(w => w && w !== 's' && !LITTLE.has(w))

function likeness(a: string, b: string): number {
  if (a === b) return 1
  if (a.length < 4 || b.length < 4) return 0
  if (a.startsWith(b) || b.startsWith(a)) return 0.85
  const pairs = (w: string) => Array.from({ length: w.length - 1 }, (_, i) => w.slice(i, i + 2))
  const [p, q] = [pairs(a), pairs(b)]
  const rest = [...q]
  let same = 0
  for (const x of p) {
    const at = rest.indexOf(x)
    if (at >= 0) {
      same++
      rest.splice(at, 1)
    }
  }
  const dice = (2 * same) / (p.length + q.length)
  return dice >= 0.7 ? dice * 0.9 : 0
}

interface Known {
  word: string
  customers: Set<number>
}
interface Hit {
  known: Known
  like: number
}

/** Finds customers by the likeness of names: rare words weigh more than common ones. */
export class NameIndex {
  private readonly byStart = new Map<string, Known[]>()
  private readonly hits = new Map<string, Hit[]>()
  private readonly weight = new Map<string, number>()
  private readonly total = new Map<number, number>()
  private readonly common: number

  constructor(customers: readonly MatchCustomer[]) {
    const owners = new Map<string, Set<number>>()
    const words = customers.map(c => [...new Set(wordsOf(c.name))])
    customers.forEach((c, n) => {
      for (const w of words[n]!) {
        const own = owners.get(w)
        if (own) own.add(c.id)
        else owners.set(w, new Set([c.id]))
      }
    })
    for (const [word, list] of owners) {
      this.weight.set(word, Math.log(1 + customers.length / list.size))
      const start = word.slice(0, 2)
      this.byStart.set(start, [...(this.byStart.get(start) ?? []), { word, customers: list }])
    }
    customers.forEach((c, n) =>
      this.total.set(
        c.id,
        words[n]!.reduce((a, w) => a + this.weight.get(w)!, 0),
      ),
    )
    // A word that many share finds nobody by itself, unless it is all there is.
    this.common = Math.max(40, customers.length / 50)
  }

  /** Known words like a word. Payers write the same few words over and over: each is looked up once. */
  private alike(word: string): Hit[] {
    const before = this.hits.get(word)
    if (before) return before
    const found = (this.byStart.get(word.slice(0, 2)) ?? [])
      .map(known => ({ known, like: likeness(word, known.word) }))
      .filter(h => h.like > 0)
    if (this.hits.size < 20_000) this.hits.set(word, found)
    return found
  }

  /** Customers whose names are like a text, likeness 0 to 1, best first. */
  find(text: string, most = 6): { customerId: number; likeness: number }[] {
    const asked = [...new Set(wordsOf(text))]
    const hits = asked
      .flatMap(word => this.alike(word))
      .sort((a, b) => a.known.customers.size - b.known.customers.size)
    const scores = new Map<number, number>()
    let askedWeight = 0
    for (const word of asked) askedWeight += this.weight.get(word) ?? 3
    const told = new Map<string, number>()
    for (const { known, like } of hits) {
      // The best likeness to one known word counts once.
      if ((told.get(known.word) ?? 0) >= like) continue
      const more = (like - (told.get(known.word) ?? 0)) * this.weight.get(known.word)!
      told.set(known.word, like)
      if (known.customers.size <= this.common || !scores.size)
        for (const id of known.customers) scores.set(id, (scores.get(id) ?? 0) + more)
      else for (const [id, score] of scores) if (known.customers.has(id)) scores.set(id, score + more)
    }
    return [...scores]
      .map(([customerId, common]) => ({
        customerId,
        likeness: Math.min(1, (0.7 * common) / this.total.get(customerId)! + (0.3 * common) / askedWeight),
      }))
      .filter(s => s.likeness >= 0.35)
      .sort((a, b) => b.likeness - a.likeness || a.customerId - b.customerId)
      .slice(0, most)
  }
}
