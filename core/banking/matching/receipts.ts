import { addDays } from '../../calendar'
import { decode, isLateDiscount, type Decoded, type SetKind } from './decode'
import { isHinted, mentionsOf, type Mentions } from './mentions'
import { together, type Evidence, type Feature } from './model'
import { isSlip, referenceKey } from './numbers'
import { textOf, type Candidate } from './payers'
import { earnedMost, earnedSteps, partOf, plural, type Hypothesis, type Setting } from './setting'
import type { Closed, MatchItem } from './types'

/*
 * What one customer's payment may be for: sets of items, parts of what is named, a second payment, on
 * account.
 */

/** Nobody pays this long before the day without a reason such as a discount. */
const EARLY_DAYS = 15
/** Who pays a part of an invoice and names it pays most of it; a little of it is asked about. */
const MOST = 0.6
const LITTLE = 0.3
/** Above this chance a set says little. */
const ACCIDENTAL = 0.2
/** How payers say that a payment is for no document yet, in the languages we ship (common practice). */
const SAYS_ON_ACCOUNT = new RegExp(
  `(?<![a-zà-ÿ])(?:${[
    'on account',
    'a ?kont?o',
    'a-?conto',
    'ak?konto',
    'acompte',
    'acconto',
    'a cuenta',
    'anticipo',
    'anzahlung',
    'abschlag',
    'deposit',
    'advance',
    'prepayment',
    'vorauszahlung',
  ].join('|')})(?![a-zà-ÿ])`,
  'i',
)

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
  const discountsOf = (i: MatchItem) => earnedSteps(i, s)
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
      {
        ...onAccount(
          twice ? { paidTwice: 1 } : { settledNamed: 1 },
          `${settled.map(toldSettled).join('; ')}: ${whatItIs(settled)}`,
        ),
        comesBack: settled.some(d => d.writtenOff),
      },
    ]
  }
  const named = debits
    .filter(i => referred.has(i.id))
    .sort((a, b) => (a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id))
  const before = s.settledOf(c.customer.id, line.amount)
  const hinted = before.filter(d => isHinted(d, textOf(line)))
  if (hinted.length && !referred.size)
    return [
      {
        ...onAccount({ paidTwiceHinted: 1 }, `${toldSettled(hinted[0]!)}: ${whatItIs(hinted.slice(0, 1))}`),
        comesBack: hinted[0]!.writtenOff,
      },
    ]
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
          ...(before.length
            ? [
                `${toldSettled(before[0]!)}, with this amount: ${before[0]!.writtenOff ? 'it may come back' : 'it may be paid twice'}`,
              ]
            : []),
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
  const earned = named.map(i => earnedMost(i, s))
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

const toldSettled = (d: Closed) =>
  `${d.number} was ${d.writtenOff ? 'written off' : 'settled'} on ${d.on} by ${d.by}`

const whatItIs = (settled: readonly Closed[]): string =>
  settled.some(d => d.writtenOff) ? 'it comes back after all' : 'it looks paid twice'

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
