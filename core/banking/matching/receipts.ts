import { addDays } from '../../calendar'
import { spreadCredits } from '../../receipts/credits'
import { decode, isLateDiscount, type Decoded, type SetKind } from './decode'
import { together, type Evidence, type Feature } from './model'
import { datesIn, isSlip, referenceKey, shapeOf, tokensIn } from './numbers'
import { textOf, type Candidate, type Named } from './payers'
import type { Closed, MatchItem, MatchLine, Part, Proposal } from './types'

/** A proposal before it is weighed against the others. */
export interface Hypothesis {
  action: Proposal['action']
  evidence: Evidence
  reasons: string[]
}

/** What the decoding of one line needs to know beside the candidate. */
export interface Setting {
  line: MatchLine
  named: Named
  itemsOf: (customerId: number) => readonly MatchItem[]
  habitsOf: (customerId: number) => Habits
  graceDays: number
  tolerance: number
  settledOf: (customerId: number, amount: number) => readonly Closed[]
  /** Forms of our numbers (`shapeOf`). */
  shapes: ReadonlySet<string>
  /** Whether a number exists, open or settled. */
  known: (key: string) => boolean
  /** Whether a number in the text is an order's, a customer's or the bank's own. */
  explains: (key: string) => boolean
}

/** How a customer was seen to pay. */
export interface Habits {
  oldest: number
  other: number
  /** Amounts kept back, and how often. */
  short: ReadonlyMap<number, number>
}

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/** The longest searches for slips are over so many items of a customer, the latest due first to go. */
const MOST_SLIPS = 400
/** Nobody pays this long before the day without a reason such as a discount. */
const EARLY_DAYS = 15
/** A day so near to the booking is that of the transfer. */
const LATELY_DAYS = 5
/** Who pays a part of an invoice and names it pays most of it; a little of it is asked about. */
const MOST = 0.6
const LITTLE = 0.3
/** Above this chance a set says little. */
const ACCIDENTAL = 0.2
const LEAST_TAIL = 3
/** The end of a number is enough only where nothing else ends so. */
const SAYS_ON_ACCOUNT =
  /(?<![a-zà-ÿ])(?:on account|a ?kont?o|a-?conto|akkonto|akonto|acompte|acconto|a cuenta|anticipo|anzahlung|abschlag|deposit|advance|prepayment|vorauszahlung)(?![a-zà-ÿ])/i

/** How the text names items of a customer beside their numbers. */
interface Mentions {
  tail: Set<number>
  slip: Set<number>
  order: Set<number>
  date: Set<number>
  /** Numbers of the form of ours that nothing explains. */
  unknown: string[]
  /** Longer numbers that are neither ours nor the end of one, nor the customer's or an order's. */
  unexplained: string[]
  /** Days that the text tells. */
  days: Set<string>
}

function mentionsOf(s: Setting, debits: readonly MatchItem[], referred: ReadonlySet<number>): Mentions {
  const text = textOf(s.line)
  const tokens = tokensIn(text)
  const mentions: Mentions = {
    tail: new Set(),
    slip: new Set(),
    order: new Set(),
    date: new Set(),
    unknown: [],
    unexplained: [],
    days: new Set(),
  }
  for (const i of s.named.byOrder) mentions.order.add(i.id)
  const some = debits.slice(0, MOST_SLIPS)
  const keys = some.map(i => referenceKey(i.number))
  for (const token of tokens) {
    if (s.known(token)) continue
    const digits = token.replace(/\D/g, '')
    const tails = digits.length >= LEAST_TAIL ? some.filter((_, n) => endsIn(keys[n]!, token)) : []
    if (tails.length === 1 && !referred.has(tails[0]!.id)) mentions.tail.add(tails[0]!.id)
    const slips = token.length >= 4 ? some.filter((_, n) => keys[n] !== token && isSlip(keys[n]!, token)) : []
    for (const i of slips.slice(0, 3)) if (!referred.has(i.id)) mentions.slip.add(i.id)
    if (tails.length) continue
    if (s.shapes.has(shapeOf(token))) mentions.unknown.push(token)
    else if (digits.length >= 4 && !slips.length && !s.explains(token)) mentions.unexplained.push(token)
  }
  // A number of somebody else's may be a slip for one of this customer's.
  for (const other of s.named.items)
    if (other.customerId !== debits[0]?.customerId) {
      const key = referenceKey(other.number)
      some.forEach((i, n) => {
        if (isSlip(keys[n]!, key) && !referred.has(i.id)) mentions.slip.add(i.id)
      })
    }
  // Banks write the day of the transfer into the text.
  const lately = addDays(s.line.bookingDate, -LATELY_DAYS)
  mentions.days = new Set(datesIn(text).filter(d => d < lately))
  for (const i of debits) if (mentions.days.has(i.documentDate)) mentions.date.add(i.id)
  return mentions
}

/** Whether a token is the end of a number, or its digits without leading zeros are. */
function endsIn(key: string, token: string): boolean {
  if (key === token) return false
  if (key.endsWith(token)) return true
  const digits = /\d+$/.exec(key)?.[0].replace(/^0+/, '')
  return digits !== undefined && digits !== '' && digits === token.replace(/^0+/, '')
}

const KINDS: Record<SetKind, Feature | undefined> = {
  named: undefined,
  namedAndMore: undefined,
  one: 'kindOne',
  all: 'kindWhole',
  due: 'kindWhole',
  upTo: 'kindRun',
  run: 'kindRun',
  runLess: 'kindLess',
  runLessFew: 'kindLessFew',
  two: 'kindTwo',
  three: 'kindThree',
  four: 'kindMany',
  any: 'kindMany',
}

/** All that a payment of one customer may be for, each with its evidence. */
export function hypothesesFor(s: Setting, c: Candidate, candidates: readonly Candidate[]): Hypothesis[] {
  const { line, tolerance } = s
  const items = s.itemsOf(c.customer.id)
  const debits = items.filter(i => i.side === 'debit' && i.documentDate <= line.bookingDate)
  const credits = items.filter(i => i.side === 'credit' && i.documentDate <= line.bookingDate)
  const byNumber = new Set([...c.referred].filter(id => s.named.items.some(i => i.id === id)))
  const mentions = mentionsOf(s, debits, byNumber)
  const weak = new Set([...mentions.tail, ...mentions.slip, ...ownOf(mentions.order, debits)])
  const paidOn = addDays(line.valueDate, -s.graceDays)
  const discountsOf = (i: MatchItem) =>
    i.open === i.amount ? i.discounts.filter(d => paidOn <= d.date).map(d => d.amount) : []
  const report = { exhaustive: false }
  const options = { discountsOf, tolerance, asOf: line.valueDate, report }
  const decoded = new Map<string, Decoded>()
  const look = (referred: ReadonlySet<number>) => {
    for (const d of decode(debits, credits, line.amount, { ...options, referred })) {
      const key = d.take
        .map(t => `${t.item.id} ${t.discount}`)
        .sort()
        .concat(d.credits.map(k => `${k.id}`).sort(), `${d.difference}`)
        .join(', ')
      if (!decoded.has(key)) decoded.set(key, d)
    }
  }
  const exact = () => [...decoded.values()].some(d => d.kind === 'named' && !d.difference)
  if (byNumber.size || !weak.size) look(byNumber)
  if (weak.size && !exact()) look(new Set([...byNumber, ...weak]))
  if (mentions.date.size && !exact() && !byNumber.size) look(mentions.date)

  const about: Evidence = {
    ...(isTheirSlip(s, c, candidates) ? { othersSlip: 1 } : {}),
    ...(s.named.items.some(i => i.customerId !== c.customer.id) && !byNumber.size
      ? { namedElsewhere: 1 }
      : {}),
  }
  const reasonable = [...decoded.values()].map((d): Hypothesis => {
    const evidence = evidenceOf(s, d, debits, byNumber, mentions, c)
    return {
      action: { kind: 'receipt', parts: [partOf(c.customer.id, d)] },
      evidence: together(c.who, about, evidence),
      reasons: [
        ...c.why,
        told(d),
        ...(evidence.slipShare ? ['its number is in the text but for one slip'] : []),
        ...(evidence.namedPassed ? ['but the text names another item'] : []),
        ...(decoded.size > 1 ? [`${decoded.size} sets of items meet the amount`] : []),
        ...habitTold(evidence),
      ],
    }
  })
  return [...reasonable, ...partsOf(s, c, debits, byNumber.size ? byNumber : weak, report.exhaustive, about)]
}

/**
 * Whether what the text names on an account that nothing else points at is, by one slip of the finger, an
 * item of the same amount of one who is known to pay: then it is theirs that is meant.
 */
const isTheirSlip = (s: Setting, c: Candidate, candidates: readonly Candidate[]): boolean =>
  !c.known &&
  candidates.some(
    payer =>
      payer.known &&
      s.named.items.some(
        i =>
          i.customerId === c.customer.id &&
          s
            .itemsOf(payer.customer.id)
            .some(own => own.open === i.open && isSlip(referenceKey(own.number), referenceKey(i.number))),
      ),
  )

const ownOf = (ids: ReadonlySet<number>, items: readonly MatchItem[]): number[] =>
  items.filter(i => ids.has(i.id)).map(i => i.id)

const habitTold = (e: Evidence): string[] => [
  ...(e.centsHabit ? ['this payer kept back the same amount before'] : []),
  ...((e.oldestHabit ?? 0) > 0.3 ? ['this payer pays the oldest first'] : []),
]

function evidenceOf(
  s: Setting,
  d: Decoded,
  debits: readonly MatchItem[],
  byNumber: ReadonlySet<number>,
  mentions: Mentions,
  c: Candidate,
): Evidence {
  const n = d.take.length
  const share = (ids: ReadonlySet<number>) => d.take.filter(t => ids.has(t.item.id)).length / n
  const named = share(byNumber)
  const passed = debits.filter(i => byNumber.has(i.id) && !d.take.some(t => t.item.id === i.id)).length
  const late = addDays(s.line.valueDate, EARLY_DAYS)
  const early = d.take.filter(t => !t.discount && t.item.dueDate > late).length / n
  const takes = new Set(d.take.map(t => t.item.id))
  const latest = d.take.reduce((a, t) => (t.item.dueDate > a ? t.item.dueDate : a), '')
  const oldest = debits.every(i => takes.has(i.id) || i.dueDate >= latest)
  const habits = s.habitsOf(c.customer.id)
  const seen = habits.oldest + habits.other
  const exactNamed = named === 1 && passed === 0
  const mentioned = share(new Set([...byNumber, ...mentions.tail, ...mentions.slip, ...mentions.order]))
  const toldAll = mentioned === 1 && passed === 0
  const kind = KINDS[d.kind]
  const slip = named < 1 ? share(mentions.slip) : 0
  const nothingNames =
    !named && !slip && !share(mentions.tail) && !share(mentions.order) && !share(mentions.date)
  return {
    ...(exactNamed ? { exactNamed: 1 } : toldAll ? { exactMentioned: 1 } : {}),
    namedShare: named,
    ...(named ? { namedMore: Math.log(byNumber.size) } : {}),
    ...(passed ? { namedPassed: Math.min(3, passed) } : {}),
    tailShare: named < 1 ? share(mentions.tail) : 0,
    slipShare: slip,
    orderShare: named < 1 ? share(mentions.order) : 0,
    dateShare: share(mentions.date),
    ...(mentions.unknown.length && !slip ? { unknownNumber: 1 } : {}),
    ...(mentions.unexplained.length && mentioned < 1
      ? { unexplained: Math.min(2, mentions.unexplained.length) }
      : {}),
    ...(mentions.days.size && mentioned < 1 && !share(mentions.date) ? { dateElsewhere: 1 } : {}),
    // What is named needs no other reason.
    ...(kind && mentioned < 1 ? { [kind]: 1 } : {}),
    unlikely: Math.min(6, -Math.log10(Math.max(1e-6, d.accident))),
    ...(mentioned < 1 && d.accident > ACCIDENTAL ? { accidental: 1 } : {}),
    ...(d.take.some(t => t.discount) ? { discount: 1 } : {}),
    ...(d.difference ? { cents: 1 } : {}),
    ...(d.difference && d.take.some(t => t.discount) ? { centsBeside: 1 } : {}),
    ...(d.difference && habits.short.has(d.difference) ? { centsHabit: 1 } : {}),
    ...(d.credits.length
      ? d.credits.every(k => c.referred.has(k.id))
        ? { creditNamed: 1 }
        : { creditTaken: 1 }
      : {}),
    ...(mentioned < 1 ? { early } : {}),
    ...(oldest && mentioned < 1 ? { oldest: 1 } : {}),
    ...(nothingNames && olderEqual(d, debits) ? { olderEqual: 1 } : {}),
    ...(oldest && mentioned < 1 && seen ? { oldestHabit: (habits.oldest - habits.other) / (seen + 1) } : {}),
  }
}

/**
 * Whether one is taken though an older one of the same amount stays open. Who does not say which of his debts
 * he pays, pays of equal ones the oldest: § 366 (2) BGB and art. 1342-10 Code civil say so (from memory), and
 * practice does elsewhere.
 */
const olderEqual = (d: Decoded, debits: readonly MatchItem[]): boolean =>
  d.take.some(({ item }) =>
    debits.some(
      i => i.open === item.open && i.dueDate < item.dueDate && !d.take.some(t => t.item.id === i.id),
    ),
  )

/** No set meets the amount: what is named gets the money, oldest first, the rest stays open or on account. */
function partsOf(
  s: Setting,
  c: Candidate,
  debits: readonly MatchItem[],
  referred: ReadonlySet<number>,
  exhaustive: boolean,
  about: Evidence,
): Hypothesis[] {
  const { line } = s
  const onAccount = (evidence: Evidence, reason: string): Hypothesis => ({
    action: {
      kind: 'receipt',
      parts: [{ customerId: c.customer.id, allocations: [], credits: [], onAccount: line.amount }],
    },
    evidence: together(c.who, about, evidence),
    reasons: [...c.why, reason],
  })
  const settled = s.named.closed.filter(d => d.customerId === c.customer.id)
  if (settled.length) {
    const twice =
      settled.reduce((a, d) => a + d.amount, 0) === line.amount || settled.some(d => d.amount === line.amount)
    return [
      onAccount(
        twice ? { paidTwice: 1 } : { settledNamed: 1 },
        `${settled.map(toldSettled).join('; ')}: it looks paid twice`,
      ),
    ]
  }
  const named = debits
    .filter(i => referred.has(i.id))
    .sort((a, b) => (a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id))
  const before = s.settledOf(c.customer.id, line.amount)
  const hinted = before.filter(d => isHinted(d, textOf(line)))
  if (hinted.length && !referred.size)
    return [onAccount({ paidTwiceHinted: 1 }, `${toldSettled(hinted[0]!)}: it looks paid twice`)]
  const said = SAYS_ON_ACCOUNT.test(line.text) ? { onAccountSaid: 1 } : {}
  if (!named.length)
    return [
      onAccount(
        {
          onAccount: 1,
          ...said,
          ...(debits.length ? {} : { nothingOpen: 1 }),
          ...(before.length ? { paidTwiceAmount: 1 } : {}),
        },
        [
          debits.length ? noSet(debits.length, exhaustive) : 'nothing is open on this account',
          ...(before.length ? [`${toldSettled(before[0]!)}, with this amount: it may be paid twice`] : []),
        ].join('; '),
      ),
    ]
  let rest = line.amount
  const allocations = named
    .map(i => {
      const amount = Math.min(rest, i.open)
      rest -= amount
      return { itemId: i.id, amount, discount: 0, difference: 0 }
    })
    .filter(a => a.amount > 0)
  const sum = named.reduce((a, i) => a + i.open, 0)
  if (sum === line.amount) return []
  const numbers = named.map(i => i.number).join(', ')
  const late = isLateDiscount(
    named.map(i => ({ item: i, discount: 0, value: i.open })),
    sum - line.amount,
  )
  const earned = named.map(i => (i.open === i.amount ? earnedOf(i, s) : 0))
  const net = sum - earned.reduce((a, x) => a + x, 0)
  // Between the amount less its discount and the amount itself: a part, or the discount and some more.
  const between = net < line.amount && line.amount < sum
  const evidence: Evidence =
    rest > 0
      ? { overNamed: 1, ...(rest <= s.tolerance ? { overLittle: 1 } : {}) }
      : {
          partNamed: 1,
          ...(between ? { partOrDiscount: 1 } : {}),
          ...(late ? { partLate: 1 } : line.amount >= sum * MOST ? { partMost: 1 } : {}),
          ...(line.amount < sum * LITTLE ? { partLittle: 1 } : {}),
        }
  const share = named.filter(i => c.referred.has(i.id)).length / named.length
  const whole = { namedShare: share, namedMore: Math.log(named.length) }
  return [
    ...(between
      ? [
          {
            action: {
              kind: 'receipt' as const,
              parts: [
                {
                  customerId: c.customer.id,
                  allocations: named.map((i, n) => ({
                    itemId: i.id,
                    amount: i.open - earned[n]!,
                    discount: earned[n]!,
                    difference: 0,
                  })),
                  credits: [],
                  onAccount: line.amount - net,
                },
              ],
            },
            evidence: together(c.who, about, whole, {
              overNamed: 1,
              discount: 1,
              ...(line.amount - net <= s.tolerance ? { overLittle: 1 } : {}),
            }),
            reasons: [...c.why, `more than ${numbers} less the discount: the rest stays on account`],
          },
        ]
      : []),
    {
      action: {
        kind: 'receipt',
        parts: [{ customerId: c.customer.id, allocations, credits: [], onAccount: rest }],
      },
      evidence: together(c.who, about, evidence, said, whole),
      reasons: [
        ...c.why,
        ...(rest > 0
          ? [`more than ${numbers}: the rest stays on account`]
          : [
              `part of ${numbers}: the rest stays open`,
              ...(late ? ['what is missing is the discount, which is no longer to be had'] : []),
            ]),
      ],
    },
    // Named, and yet the money is for all of the account.
    onAccount({ onAccount: 1, namedPassed: Math.min(3, named.length), ...said }, `not for ${numbers} alone`),
  ]
}

/** The largest discount that the payment date still earns. */
const earnedOf = (i: MatchItem, s: Setting): number => {
  const paidOn = addDays(s.line.valueDate, -s.graceDays)
  return Math.max(0, ...i.discounts.filter(d => paidOn <= d.date).map(d => d.amount))
}

/** Whether a text means a settled document without its whole number. */
function isHinted(d: Closed, text: string): boolean {
  const key = referenceKey(d.number)
  return (
    datesIn(text).includes(d.documentDate) ||
    tokensIn(text).some(t => t.length >= LEAST_TAIL && (endsIn(key, t) || (t.length >= 4 && isSlip(key, t))))
  )
}

const toldSettled = (d: Closed) => `${d.number} was settled on ${d.on} by ${d.by}`

/** One payment for several customers: what is named on each account, together, is the amount. */
export function severalProposal(s: Setting, candidates: readonly Candidate[]): Hypothesis | undefined {
  const { line } = s
  const owners = [...new Set([...s.named.items, ...s.named.byOrder].map(i => i.customerId))]
  if (owners.length < 2) return undefined
  const paidOn = addDays(line.valueDate, -s.graceDays)
  const take = (earned: boolean) =>
    owners.map(customerId => {
      const all = s.itemsOf(customerId).filter(i => isNamed(s, i) && i.documentDate <= line.bookingDate)
      const debits = all.filter(i => i.side === 'debit')
      const credits = all.filter(i => i.side === 'credit')
      return partOf(customerId, {
        kind: 'named',
        take: debits.map(item => ({
          item,
          discount:
            earned && item.open === item.amount
              ? Math.max(0, ...item.discounts.filter(d => paidOn <= d.date).map(d => d.amount))
              : 0,
        })),
        credits,
        difference: 0,
        how: '',
        accident: 0,
      })
    })
  const sum = (parts: Part[]) => parts.flatMap(p => p.allocations).reduce((a, x) => a + x.amount, 0)
  const parts = [take(false), take(true)].find(p => sum(p) === line.amount)
  if (!parts || parts.some(p => !p.allocations.length)) return undefined
  const heads = new Set(
    owners.map(id => candidates.find(c => c.customer.id === id)?.customer).map(c => c?.parentId ?? c?.id),
  )
  const oneGroup = heads.size === 1
  const count = parts.flatMap(p => p.allocations).length
  return {
    action: { kind: 'receipt', parts },
    evidence: {
      several: 1,
      ...(oneGroup ? { severalGroup: 1 } : {}),
      exactNamed: 1,
      namedShare: 1,
      namedMore: Math.log(count),
      unlikely: 3,
    },
    reasons: [
      `the text names items of ${plural(owners.length, 'customer')}${oneGroup ? ', one group' : ''}, and ` +
        'they make the amount',
    ],
  }
}

const isNamed = (s: Setting, item: MatchItem): boolean =>
  [...s.named.items, ...s.named.byOrder].some(i => i.id === item.id)

/** The head of a group pays all that is due of the whole group. */
export function groupProposal(s: Setting, c: Candidate, members: readonly number[]): Hypothesis | undefined {
  if (members.length < 2) return undefined
  const due = (only: boolean) =>
    members.map(id => ({
      customerId: id,
      items: s
        .itemsOf(id)
        .filter(
          i =>
            i.side === 'debit' &&
            i.documentDate <= s.line.bookingDate &&
            (!only || i.dueDate <= s.line.valueDate),
        ),
    }))
  for (const only of [true, false]) {
    const sets = due(only).filter(x => x.items.length)
    const sum = sets.flatMap(x => x.items).reduce((a, i) => a + i.open, 0)
    if (sets.length < 2 || sum !== s.line.amount) continue
    return {
      action: {
        kind: 'receipt',
        parts: sets.map(x => ({
          customerId: x.customerId,
          allocations: x.items.map(i => ({ itemId: i.id, amount: i.open, discount: 0, difference: 0 })),
          credits: [],
          onAccount: 0,
        })),
      },
      evidence: together(c.who, { several: 1, severalGroup: 1, kindWhole: 1, unlikely: 4, oldest: 1 }),
      reasons: [...c.why, `all that is ${only ? 'due' : 'open'} in the group: exactly this amount`],
    }
  }
  return undefined
}

/** The payer's own list of documents and amounts, where it adds up. */
export function remittedProposal(
  s: Setting,
  itemOf: (key: string) => readonly MatchItem[],
  whoOf: (customerId: number) => Evidence,
): Hypothesis | undefined {
  const { line } = s
  if (!line.remittance.length) return undefined
  const paidOn = addDays(line.valueDate, -s.graceDays)
  const parts = new Map<number, Part & { kept: MatchItem[] }>()
  let total = 0
  for (const r of line.remittance) {
    const [item] = itemOf(referenceKey(r.number)).filter(
      i => (i.side === 'credit') === r.credit && i.documentDate <= line.bookingDate,
    )
    if (!item) return undefined
    const part = parts.get(item.customerId) ?? {
      customerId: item.customerId,
      allocations: [],
      credits: [],
      onAccount: 0,
      kept: [],
    }
    parts.set(item.customerId, part)
    total += r.credit ? -r.paid : r.paid
    if (r.credit) {
      part.kept.push({ ...item, open: Math.min(item.open, r.paid) })
      continue
    }
    // A discount that is no longer earned is not given by the payer's word.
    const earned = Math.max(0, ...item.discounts.filter(d => paidOn <= d.date).map(d => d.amount))
    const discount = item.open === item.amount && r.discount <= earned ? r.discount : 0
    const amount = Math.min(r.paid, item.open - discount)
    part.allocations.push({ itemId: item.id, amount, discount, difference: 0 })
    part.onAccount += r.paid - amount
  }
  if (total !== line.amount) return undefined
  const settled = [...parts.values()].map(({ kept, ...part }): Part => {
    const credits = spreadCredits(
      kept.map(k => ({ id: k.id, amount: k.open })),
      part.allocations.filter(a => !a.discount).map(a => ({ id: a.itemId, amount: a.amount })),
    )
    return {
      ...part,
      credits,
      allocations: part.allocations
        .map(a => ({
          ...a,
          amount:
            a.amount - credits.filter(k => k.debitItemId === a.itemId).reduce((x, k) => x + k.amount, 0),
        }))
        .filter(a => a.amount > 0),
    }
  })
  // A credit that finds no room, or a document named twice, leaves a sum that is not the line's.
  const money = settled.reduce((a, p) => a + p.onAccount + p.allocations.reduce((b, x) => b + x.amount, 0), 0)
  if (money !== line.amount) return undefined
  return {
    action: { kind: 'receipt', parts: settled },
    evidence: together(settled.length === 1 ? whoOf(settled[0]!.customerId) : { several: 1 }, {
      remitted: 1,
      exactNamed: 1,
      namedShare: 1,
      namedMore: Math.log(line.remittance.length),
    }),
    reasons: [`the payer lists ${plural(line.remittance.length, 'document')} with amounts, and they add up`],
  }
}

export function partOf(customerId: number, d: Decoded): Part {
  const credits = spreadCredits(
    d.credits.map(c => ({ id: c.id, amount: c.open })),
    d.take.filter(t => !t.discount).map(t => ({ id: t.item.id, amount: t.item.open })),
  )
  const left = new Map(d.take.map(t => [t.item.id, t.item.open - t.discount]))
  for (const c of credits) left.set(c.debitItemId, left.get(c.debitItemId)! - c.amount)
  let difference = d.difference
  // Rather on an item without discount; on one with, when there is no other.
  const bearsIt = (t: (typeof d.take)[number]) => !t.discount || d.take.every(x => x.discount)
  const allocations = [...d.take]
    .reverse()
    .map(t => {
      const own = difference && left.get(t.item.id)! > difference && bearsIt(t) ? difference : 0
      difference -= own
      return { itemId: t.item.id, amount: left.get(t.item.id)! - own, discount: t.discount, difference: own }
    })
    .reverse()
    .filter(a => a.amount > 0)
  return { customerId, allocations, credits, onAccount: 0 }
}

/** What was tried is said, and no more. */
const noSet = (count: number, exhaustive: boolean): string =>
  exhaustive
    ? `no set of its ${plural(count, 'open item')} makes this amount`
    : `none of the sets that were tried among its ${plural(count, 'open item')} makes this amount`

function told(d: Decoded): string {
  const discount = d.take.filter(t => t.discount).length
  const n = d.take.length
  const what =
    n > 3 && !/^all|^everything|without gaps|add up$/.test(d.how)
      ? `${plural(n, 'item')}, ${d.how}`
      : n > 1 && /^all|^everything|without gaps/.test(d.how)
        ? `${d.how} (${n})`
        : d.how
  return (
    `${what}${discount ? `, less ${discount === 1 ? 'the discount' : `${discount} discounts`}` : ''}: ` +
    `exactly this amount${d.difference ? ' but for a small difference' : ''}`
  )
}
