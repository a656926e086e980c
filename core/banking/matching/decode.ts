import type { MatchItem } from './types'

/** How a set was found; plain ones first. */
export type SetKind =
  | 'named'
  | 'namedAndMore'
  | 'one'
  | 'all'
  | 'due'
  | 'upTo'
  | 'run'
  | 'runLess'
  | 'runLessFew'
  | 'two'
  | 'three'
  | 'four'
  | 'any'

/** Which items a payment is for. */
export interface Decoded {
  kind: SetKind
  take: { item: MatchItem; discount: number }[]
  credits: MatchItem[]
  /** What the payment falls short, written off as a small difference. */
  difference: number
  /** How this set is told in words. */
  how: string
  /** Chance that a set of this kind meets the amount by accident, 0 to 1. */
  accident: number
}

export interface Choice {
  item: MatchItem
  discount: number
  value: number
}
/** A set, how it is told in words, and how it was found. */
type Found = [set: Choice[], how: string, kind: SetKind]

const MOST_ANSWERS = 4
/** Plain sets (one item, all up to a day, a run) are looked for among this many items of an account. */
const MOST_ITEMS = 6000
/** Sets of two or three, among those that are named, of this amount, or due the longest. */
const FEW_ITEMS = 300
/** Any set at all. */
const ANY_ITEMS = 60

/**
 * Decodes a payment of one customer into the set of items it pays: exact search, simple sets first (what was
 * referred to, one item, all that is due by a day, a run without gaps, a run less one to four, two to four
 * items, at last any set), with and without the discounts that the payment date still earns, with and without
 * the credits of the account. The sets of the first kind that meets the amount are answered; several are
 * equally good. An account of thousands of items is looked through for plain sets; the longer searches are
 * for those that are named, have this amount, or are due the longest. `budget` bounds the last search
 * (steps), so that a decode ends within a fraction of a second; `report` tells whether every set was tried.
 * `discountsOf`: all steps that the payment date still earns, the largest first. Amounts in minor units.
 */
export function decode(
  items: readonly MatchItem[],
  credits: readonly MatchItem[],
  amount: number,
  options: {
    referred: ReadonlySet<number>
    discountsOf: (item: MatchItem) => number[]
    tolerance: number
    asOf: string
    budget?: number
    report?: { exhaustive: boolean }
  },
): Decoded[] {
  const first = (i: MatchItem) =>
    options.referred.has(i.id) ? 0 : [0, ...options.discountsOf(i)].some(d => i.open - d === amount) ? 1 : 2
  // Named ones and those of exactly this amount are never cut, whatever their age.
  const ranked = [...items].sort((a, b) => first(a) - first(b) || byDue(a, b))
  const ordered = ranked.slice(0, MOST_ITEMS).sort(byDue)
  const referred = ordered.filter(i => options.referred.has(i.id))
  const variants = choicesOf(ordered, options.discountsOf)
  const among = (most: number) => {
    if (ordered.length <= most) return variants
    const kept = new Set(ranked.slice(0, most))
    return variants.map(choices => choices.filter(c => kept.has(c.item)))
  }
  const creditSets = creditSetsOf(credits, options.referred)
  // Round amounts meet each other more often: whole units only, when all are whole.
  const grain = Math.min(100, variants[0]!.reduce((a, c) => greatest(a, c.value), amount) || 1)
  let tried = 0
  const answers = new Map<string, Decoded>()
  /** Chance of an accident: sets tried so far against the amounts that were possible. */
  const accident = (window: number) =>
    Math.min(0.95, (tried * window) / Math.max(1, Math.abs(amount) / grain))
  const add = (
    choices: readonly Choice[],
    used: readonly MatchItem[],
    difference: number,
    how: string,
    kind: SetKind,
  ) => {
    // A credit needs a chosen item without discount that can hold it.
    const plain = choices.filter(c => !c.discount)
    const creditSum = used.reduce((a, c) => a + c.open, 0)
    if (used.length && plain.reduce((a, c) => a + c.item.open, 0) <= creditSum) return
    if (difference && !choices.some(c => c.item.open - c.discount > difference)) return
    const key = `${choices
      .map(c => `${c.item.id}:${c.discount}`)
      .sort()
      .join(' ')}|${used
      .map(c => c.id)
      .sort()
      .join(' ')}|${difference}`
    if (!answers.has(key))
      answers.set(key, {
        kind,
        take: choices.map(c => ({ item: c.item, discount: c.discount })),
        credits: [...used],
        difference,
        how,
        accident: accident(difference ? options.tolerance : 1),
      })
  }
  const sum = (choices: readonly Choice[]) => choices.reduce((a, c) => a + c.value, 0)
  const tryAll = (
    kind: (choices: Choice[], target: number) => Iterable<Found>,
    tried = variants,
  ): boolean => {
    for (const [creditNo, used] of creditSets.entries()) {
      for (const choices of tried) {
        const target = amount + used.reduce((a, c) => a + c.open, 0)
        for (const [set, how, found] of kind(choices, target)) {
          if (set.length && sum(set) === target)
            add(
              set,
              used,
              0,
              used.length ? `${how}, less ${used.map(c => c.number).join(' and ')}` : how,
              found,
            )
          if (answers.size >= MOST_ANSWERS) return true
        }
        // Without discount and credits is the plainest reading: what it answers stands.
        if (answers.size && creditNo === 0 && choices === tried[0]) return true
      }
      if (answers.size) return true
    }
    return answers.size > 0
  }
  const of = (ids: ReadonlySet<number>) => (choices: Choice[]) => choices.filter(c => ids.has(c.item.id))
  const count = (n: number) => {
    tried += n
  }

  if (referred.length) {
    const fixed = of(new Set(referred.map(i => i.id)))
    const named = referred.map(i => i.number).join(', ')
    if (
      tryAll(function* (choices) {
        count(1)
        yield [fixed(choices), `the amount of ${named}`, 'named']
      })
    )
      return [...answers.values()]
    // Referred to, and more: the text was cut off.
    if (
      tryAll(function* (choices, target) {
        const base = fixed(choices)
        const left = target - sum(base)
        if (left <= 0) return
        const others = choices.filter(c => !base.includes(c))
        for (const extra of [...single(others, left, count), ...simple(others, left, options.asOf, count)])
          yield [[...base, ...extra[0]], `${named} and ${extra[1]}`, 'namedAndMore']
      })
    )
      return [...answers.values()]
    // Another step of the discount for each: they were paid by different days.
    if (
      tryAll(
        function* (choices, target) {
          for (const set of steppedSets(fixed(choices), options.discountsOf, target, count))
            yield [set, `the amount of ${named}`, 'named']
        },
        [variants[0]!],
      )
    )
      return [...answers.values()]
    // A few cents short of what was referred to: without a discount, and less one.
    const short = variants
      .map(choices => ({ set: fixed(choices), short: sum(fixed(choices)) - amount }))
      .filter(v => v.short > 0 && v.short <= options.tolerance && !isLateDiscount(v.set, v.short))
      .sort((a, b) => a.short - b.short)
    count(variants.length)
    for (const v of short.slice(0, 2))
      add(v.set, [], v.short, `the amount of ${named}, a little short`, 'named')
    if (answers.size) return [...answers.values()]
  }
  if (tryAll((choices, target) => single(choices, target, count))) return [...answers.values()]
  if (tryAll((choices, target) => simple(choices, target, options.asOf, count))) return [...answers.values()]
  if (tryAll((choices, target) => few(choices, target, count), among(FEW_ITEMS))) return [...answers.values()]
  for (const c of aLittleShort(variants, amount, options.tolerance))
    add([c], [], c.value - amount, `${c.item.number}, a little short`, 'one')
  // One item and a few cents are a plain reading, whatever was tried before.
  for (const a of answers.values())
    a.accident = Math.min(0.95, (ordered.length * options.tolerance) / Math.max(1, amount))
  if (answers.size) return [...answers.values()]
  const deep = among(ANY_ITEMS)
  if (tryAll((choices, target) => quads(choices, target, count), deep)) return [...answers.values()]
  const budget = { steps: options.budget ?? 250_000 }
  tryAll((choices, target) => any(choices, target, budget, count), deep)
  if (options.report) options.report.exhaustive = ordered.length <= ANY_ITEMS && budget.steps >= 0
  return [...answers.values()]
}

const byDue = (a: MatchItem, b: MatchItem): number =>
  a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id

/**
 * Without discount, and with each step that is still earned: 3 % now, or the 2 % that stay to be had later.
 */
function choicesOf(items: readonly MatchItem[], discountsOf: (item: MatchItem) => number[]): Choice[][] {
  const steps = items.map(discountsOf)
  const most = steps.reduce((a, s) => Math.max(a, s.length), 0)
  const plain = items.map(item => ({ item, discount: 0, value: item.open }))
  const reduced = Array.from({ length: most }, (_, step) =>
    items.map((item, i) => {
      const discount = steps[i]![step] ?? steps[i]!.at(-1) ?? 0
      return { item, discount, value: item.open - discount }
    }),
  )
  return [plain, ...reduced]
}

/** So many sets of steps are tried for what is named. */
const MOST_STEPPED = 20_000

/** Sets of the same items, each with any step of its discount or none, that meet a sum. */
function* steppedSets(
  choices: readonly Choice[],
  discountsOf: (item: MatchItem) => number[],
  target: number,
  count: (n: number) => void,
): Generator<Choice[]> {
  const values = choices.map(({ item }) =>
    [0, ...discountsOf(item)].map(discount => ({ item, discount, value: item.open - discount })),
  )
  const least = [0]
  const most = [0]
  for (const v of [...values].reverse()) {
    least.unshift(least[0]! + Math.min(...v.map(c => c.value)))
    most.unshift(most[0]! + Math.max(...v.map(c => c.value)))
  }
  let left = MOST_STEPPED
  function* walk(at: number, rest: number, taken: Choice[]): Generator<Choice[]> {
    if (--left < 0 || rest < least[at]! || rest > most[at]!) return
    if (at === values.length) {
      if (rest === 0) yield taken
      return
    }
    for (const c of values[at]!) yield* walk(at + 1, rest - c.value, [...taken, c])
  }
  yield* walk(0, target, [])
  count(MOST_STEPPED - left)
}

/**
 * Whether what is missing is the discount that was offered, taken too late: then it is claimed, not lost on
 * the way, and never a small difference. A cent more or less for each item is their rounding.
 */
export function isLateDiscount(set: readonly Choice[], short: number): boolean {
  const steps = Math.max(0, ...set.map(c => c.item.discounts.length))
  return Array.from({ length: steps }, (_, step) => step).some(step => {
    const offered = set.reduce((a, c) => {
      const { open, amount, discounts } = c.item
      return a + (open === amount && !c.discount ? (discounts[step]?.amount ?? 0) : 0)
    }, 0)
    return offered > 0 && Math.abs(offered - short) <= set.length
  })
}

/** Single items that the amount is a few cents short of; of the readings of one item the closest. */
function aLittleShort(variants: readonly Choice[][], amount: number, tolerance: number): Choice[] {
  const best = new Map<number, Choice>()
  for (const c of variants.flat()) {
    const short = c.value - amount
    if (short <= 0 || short > tolerance || isLateDiscount([c], short)) continue
    const before = best.get(c.item.id)
    if (!before || c.value < before.value) best.set(c.item.id, c)
  }
  return [...best.values()]
}

/** No credit, those referred to, all, or one of them. */
function creditSetsOf(credits: readonly MatchItem[], referred: ReadonlySet<number>): MatchItem[][] {
  const own = credits.slice(0, 8)
  const named = own.filter(c => referred.has(c.id))
  const sets = named.length ? [named, []] : [[]]
  if (own.length > 1) sets.push(own)
  for (const c of own) sets.push([c])
  const seen = new Set<string>()
  return sets.filter(s => {
    const key = s.map(c => c.id).join(' ')
    return seen.has(key) ? false : (seen.add(key), true)
  })
}

function* single(choices: Choice[], target: number, count: (n: number) => void): Generator<Found> {
  count(choices.length)
  for (const c of choices) if (c.value === target) yield [[c], c.item.number, 'one']
}

/** All that is due; all by a day; a run without gaps; a run less one. */
function* simple(
  choices: Choice[],
  target: number,
  asOf: string,
  count: (n: number) => void,
): Generator<Found> {
  const due = choices.filter(c => c.item.dueDate <= asOf)
  for (const list of [
    choices,
    [...choices].sort((a, b) =>
      a.item.documentDate < b.item.documentDate
        ? -1
        : a.item.documentDate > b.item.documentDate
          ? 1
          : a.item.id - b.item.id,
    ),
  ]) {
    const before = [0]
    for (const c of list) before.push(before.at(-1)! + c.value)
    const ends = new Map(before.map((b, i) => [b, i]))
    count((list.length * list.length) / 2)
    for (let from = 0; from < list.length; from++) {
      const to = ends.get(before[from]! + target)
      if (to !== undefined && to > from + 1) {
        const run = list.slice(from, to)
        const whole = run.length === choices.length
        const isDue = run.length === due.length && run.every(c => due.includes(c))
        const [how, kind]: [string, SetKind] = whole
          ? ['all that is open', 'all']
          : isDue
            ? ['all that is due', 'due']
            : from === 0
              ? [`everything up to ${run.at(-1)!.item.number}`, 'upTo']
              : [`${run[0]!.item.number} to ${run.at(-1)!.item.number} without gaps`, 'run']
        yield [run, how, kind]
      }
    }
    // A run less one or two items: something in it is argued about.
    count(list.length ** 2 * 3)
    // Of equal ones the youngest is left out: the older ones are paid first.
    const lastOf = new Map<number, number>()
    for (let to = 1; to <= list.length; to++) {
      lastOf.set(list[to - 1]!.value, to - 1)
      const at = lastOf.get(before[to]! - target)
      if (at === undefined || to < 3) continue
      yield [
        list.slice(0, to).filter((_, i) => i !== at),
        `everything up to ${list[to - 1]!.item.number} but ${list[at]!.item.number}`,
        'runLess',
      ]
    }
  }
}

/** Two or three items, or an early run less two. */
function* few(choices: Choice[], target: number, count: (n: number) => void): Generator<Found> {
  const byValue = new Map<number, Choice[]>()
  for (const c of choices) byValue.set(c.value, [...(byValue.get(c.value) ?? []), c])
  const n = choices.length
  const tell = (set: Choice[]) => set.map(c => c.item.number).join(' and ')
  count((n * n) / 2)
  for (let i = 0; i < n; i++) {
    for (const c of byValue.get(target - choices[i]!.value) ?? [])
      if (choices.indexOf(c) > i) yield [[choices[i]!, c], tell([choices[i]!, c]), 'two']
  }
  const place = new Map(choices.map((c, i) => [c, i]))
  count(n ** 3 / 6)
  for (let i = 0; i < n; i++) {
    for (let j = i + 1; j < n; j++) {
      for (const c of byValue.get(target - choices[i]!.value - choices[j]!.value) ?? [])
        if (place.get(c)! > j) {
          const set = [choices[i]!, choices[j]!, c]
          yield [set, tell(set), 'three']
        }
    }
  }
  let total = 0
  for (let to = 0; to < n; to++) {
    total += choices[to]!.value
    const over = total - target
    if (over <= 0 || to < 4) continue
    count((to * to) / 2)
    for (let i = 0; i < to; i++) {
      for (const c of byValue.get(over - choices[i]!.value) ?? []) {
        const at = place.get(c)!
        if (at > i && at < to)
          yield [
            choices.slice(0, to + 1).filter((_, k) => k !== i && k !== at),
            `everything up to ${choices[to]!.item.number} but ${choices[i]!.item.number} and ` +
              `${c.item.number}`,
            'runLessFew',
          ]
      }
    }
  }
}

/** Four items, or an early run less three or four: pairs against pairs. */
function* quads(choices: Choice[], target: number, count: (n: number) => void): Generator<Found> {
  const n = choices.length
  const pairs = new Map<number, [number, number][]>()
  for (let i = 0; i < n; i++) {
    for (let j = i + 1; j < n; j++) {
      const sum = choices[i]!.value + choices[j]!.value
      const list = pairs.get(sum)
      if (list) list.push([i, j])
      else pairs.set(sum, [[i, j]])
    }
  }
  /** Sets of three (with `single`) or four places before `end` that make a sum, each once. */
  function* sets(sum: number, end: number): Generator<number[]> {
    for (let i = 0; i < end; i++)
      for (const [a, b] of pairs.get(sum - choices[i]!.value) ?? []) if (a > i && b < end) yield [i, a, b]
    for (let i = 0; i < end; i++)
      for (let j = i + 1; j < end; j++)
        for (const [a, b] of pairs.get(sum - choices[i]!.value - choices[j]!.value) ?? [])
          if (a > j && b < end) yield [i, j, a, b]
  }
  let total = 0
  for (let to = 0; to < n; to++) {
    total += choices[to]!.value
    if (to < 6 || total <= target) continue
    count(to ** 4 / 24)
    for (const out of sets(total - target, to))
      yield [
        choices.slice(0, to + 1).filter((_, k) => !out.includes(k)),
        `everything up to ${choices[to]!.item.number} but ${out.length} items`,
        'runLessFew',
      ]
  }
  count(n ** 4 / 24)
  for (const set of sets(target, n))
    if (set.length === 4) {
      const four = set.map(i => choices[i]!)
      yield [four, four.map(c => c.item.number).join(', '), 'four']
    }
}

/** Any set: depth first from the oldest, cut where the rest cannot reach the target. */
function* any(
  choices: Choice[],
  target: number,
  budget: { steps: number },
  count: (n: number) => void,
): Generator<Found> {
  const left = [...choices.map((_, i) => choices.slice(i).reduce((a, c) => a + c.value, 0)), 0]
  const found: Choice[][] = []
  const picked: Choice[] = []
  const walk = (i: number, rest: number): void => {
    if (found.length >= MOST_ANSWERS || --budget.steps < 0) return
    if (rest === 0) {
      found.push([...picked])
      return
    }
    if (i >= choices.length || rest < 0 || rest > left[i]!) return
    picked.push(choices[i]!)
    walk(i + 1, rest - choices[i]!.value)
    picked.pop()
    walk(i + 1, rest)
  }
  walk(0, target)
  count(2 ** Math.min(choices.length, 40))
  for (const set of found) yield [set, `${set.length} items that add up`, 'any']
}

function greatest(a: number, b: number): number {
  let [x, y] = [Math.abs(a), Math.abs(b)]
  while (y) [x, y] = [y, x % y]
  return x
}
