import { addDays, addMonths, discountOn, onBankWorkingDay, type IsoDate } from '../core/calendar'
import { creditorReference } from '../core/banking/matching'
import { share } from '../core/money'
import type { StatementLine } from '../formats/statements'
import { chance, type Chance } from './chance'

/** What the invented customers know: the invoices sent to them, and when they mean to pay. Minor units. */
export interface PayerInvoice {
  number: string
  open: number
  amount: number
  date: IsoDate
  due: IsoDate
  payOn: IsoDate
  discounts: { date: IsoDate; amount: number }[]
}
export interface Payer {
  number: string
  name: string
  country: string
  currency: string
  iban: string
  takesDiscount: boolean
  /** Its money is pulled by direct debit: it pays nothing by itself. */
  isPulled?: boolean
  /** What it usually buys for, kept when all is paid. */
  typical?: number
  invoices: PayerInvoice[]
  credits: { number: string; open: number }[]
}

/** What a line really was: for tests and measures, never shown to the application. */
export interface Truth {
  bankReference: string
  kind: 'receipt' | 'slip' | 'ledger' | 'return' | 'file'
  /** Whether the line tells enough to be answered at all. */
  answerable: boolean
  how: string
  customer: string
  allocations: { number: string; amount: number; discount: number }[]
  credits: { number: string; amount: number }[]
  onAccount: number
}
export interface Delivered {
  line: StatementLine
  currency: string
  truth: Truth
}

const upper = (s: string) =>
  s
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toUpperCase()
    .replace(/Ø/g, 'O')
    .replace(/Æ/g, 'AE')
    .replace(/&/g, ' ')
    .replace(/[^A-Z0-9 ./-]/g, '')
    .replace(/ +/g, ' ')
const RELATIVES = [
  'M Darragh',
  'K Lindqvist',
  'Ferrow Family Account',
  'J Tarrant',
  'R and E Voss',
  'P Strath',
]
const bankDay = (day: IsoDate) => onBankWorkingDay(day)

/**
 * Everything the payers send between two days (the first left out), the same for the same seed. `muddle`
 * above 1: their references are worse.
 */
export function paymentLines(
  payers: readonly Payer[],
  after: IsoDate,
  upTo: IsoDate,
  seed = 'wrackline',
  muddle = 1,
): Delivered[] {
  const all: Delivered[] = []
  for (const p of payers) {
    const byDay = new Map<IsoDate, PayerInvoice[]>()
    for (const i of p.invoices) {
      const day = bankDay(i.payOn)
      if (day > after && day <= upTo) byDay.set(day, [...(byDay.get(day) ?? []), i])
    }
    for (const [day, due] of [...byDay].sort(([a], [b]) => (a < b ? -1 : 1)))
      all.push(...pay(p, day, due, chance(`${seed} pays ${p.number} ${day}`), muddle))
    // Now and then somebody pays the same invoice again some days later.
    for (const i of p.invoices) {
      const c = chance(`${seed} twice ${p.number} ${i.number}`)
      if (!c.happens(0.008 * muddle) || i.payOn > '2100') continue
      const day = bankDay(addDays(bankDay(i.payOn), c.whole(3, 6)))
      if (day > after && day <= upTo)
        all.push(
          line(p, day, i.open, c, {
            text: i.number,
            named: true,
            how: 'paid twice',
            allocations: [],
            credits: [],
            onAccount: i.open,
            answerable: true,
          }),
        )
    }
  }
  return all.sort((a, b) =>
    a.line.bookingDate < b.line.bookingDate
      ? -1
      : a.line.bookingDate > b.line.bookingDate
        ? 1
        : a.line.bankReference < b.line.bankReference
          ? -1
          : 1,
  )
}

function pay(p: Payer, day: IsoDate, due: PayerInvoice[], c: Chance, by: number): Delivered[] {
  const ordered = [...due].sort((a, b) =>
    a.date < b.date ? -1 : a.date > b.date ? 1 : a.number < b.number ? -1 : 1,
  )
  const takes = ordered.map(i => ({
    i,
    discount: p.takesDiscount && i.open === i.amount ? discountOn(i.discounts, day) : 0,
  }))
  const credits = p.credits
    .filter(k => c.happens(0.5) && takes.some(t => !t.discount && t.i.open > k.open))
    .slice(0, 1)
  const allocations = takes.map(t => ({
    number: t.i.number,
    amount: t.i.open - t.discount,
    discount: t.discount,
  }))
  const used: Truth['credits'] = []
  for (const k of credits) {
    const target = allocations.filter((_, n) => !takes[n]!.discount).sort((a, b) => b.amount - a.amount)[0]
    if (!target || target.amount <= k.open) continue
    target.amount -= k.open
    used.push({ number: k.number, amount: k.open })
  }
  let how = ordered.length > 1 ? 'lump sum' : 'one invoice'
  if (takes.some(t => t.discount)) how += ', discount'
  if (used.length) how += ', credit taken off'
  const muddle = c.next() / by
  // Short: a claim of their own, or a few cents lost in a bank's fee.
  if (ordered.length === 1 && !takes[0]!.discount && !used.length) {
    if (muddle < 0.03) {
      allocations[0]!.amount -= share(allocations[0]!.amount, c.whole(4, 25), 100)
      how += ', short'
    } else if (muddle < 0.05) {
      allocations[0]!.amount -= c.whole(1, 90)
      how += ', cents short'
    }
  }
  const amount = allocations.reduce((a, x) => a + x.amount, 0)
  const numbers = ordered.map(i => i.number)
  const style = c.next() ** (1 / Math.sqrt(by))
  const listed = numbers.join(' ')
  const single = numbers.length === 1
  let text =
    style < 0.55
      ? `${c.pick(['Invoice', 'Inv', 'Re', 'RG', 'Facture', 'Payment of', ''])} ` +
        `${numbers.join(c.pick([' ', ', ', ' + ']))}`
      : numbers.map(n => n.replace('-', c.pick(['/', ' ', '']))).join(c.pick([' ', ', ', ';']))
  let reference = ''
  let named = true
  if (style >= 0.66 && style < 0.8 && single) {
    text = ''
    reference = creditorReference(numbers[0]!)
    how += ', structured reference'
  } else if (style >= 0.66 && style < 0.8 && !single) {
    text = listed
      .slice(0, Math.max(8, Math.floor(listed.length * 0.6)))
      .replace(/[\s-]*\S*$/, m => (/^\s?\d\d-\d{4}$/.test(m) ? m : ''))
    how += ', list cut off'
  } else if (style >= 0.8 && style < 0.88) {
    text = numbers.map(n => n.slice(-4)).join(' ')
    how += ', only the ends of numbers'
  } else if (style >= 0.88 && style < 0.965) {
    text = c.pick(['payment, thank you', 'your account', 'settlement', 'kelp, dulse', 'as agreed'])
    named = false
    how += ', no reference'
  } else if (style >= 0.965 && style < 0.985) {
    text = text.replace(/\d(?=\D*$)/, d => String((Number(d) + 1 + c.whole(0, 7)) % 10))
    named = false
    how += ', wrong number'
  }
  const relative = c.happens(0.012 * by)
  // Nobody could tell what an arbitrary amount without a number is for, nor numbers cut to their ends from a
  // stranger.
  const answerable = relative ? style < 0.8 : named || !/short/.test(how)
  return [
    line(p, day, amount, c, {
      text: text.trim(),
      reference,
      relative,
      named: style < 0.8,
      how: relative ? `${how}, from a relative` : how,
      allocations,
      credits: used,
      onAccount: 0,
      answerable,
    }),
  ]
}

interface Sent {
  text: string
  reference?: string
  relative?: boolean
  named: boolean
  how: string
  allocations: Truth['allocations']
  credits: Truth['credits']
  onAccount: number
  answerable: boolean
}
function line(p: Payer, day: IsoDate, amount: number, c: Chance, sent: Sent): Delivered {
  const name = sent.relative
    ? c.pick(RELATIVES)
    : c.pick([
        p.name,
        upper(p.name),
        upper(p.name),
        `${upper(p.name)} ${c.pick(['LTD', 'GMBH', 'SARL', 'BV'])}`,
        upper(p.name).slice(0, 18).trim(),
      ])
  // Some banks pass no name on, some people mistype it.
  const shown = c.happens(0.04)
    ? ''
    : c.happens(0.03) && name.length > 6
      ? name.slice(0, 4) + name.slice(5)
      : name
  const bankReference = `${day.replace(/-/g, '')}${String(c.whole(0, 99_999_999)).padStart(8, '0')}`
  return {
    currency: p.currency,
    line: {
      bookingDate: day,
      valueDate: day,
      amount,
      name: shown,
      iban: sent.relative ? '' : p.iban,
      text: sent.text,
      reference: sent.reference ?? '',
      endToEndId: c.happens(0.4) ? `${p.number}-${c.whole(10_000, 99_999)}` : '',
      bankReference,
      code: 'PMNT-RCDT-ESCT',
      returnReason: '',
    },
    truth: {
      bankReference,
      kind: 'receipt',
      answerable: sent.answerable && (sent.named || shown !== '' || (p.iban !== '' && !sent.relative)),
      how: sent.how,
      customer: p.number,
      allocations: sent.allocations,
      credits: sent.credits,
      onAccount: sent.onAccount,
    },
  }
}

/** A made-up world of any size, for measures: customers with open items, and payments planned for one day. */
export function inventWorld(seed: string, customers: number, items: number, day: IsoDate): Payer[] {
  const c = chance(seed)
  const FIRST = [
    'Alder',
    'Birch',
    'Cliff',
    'Dune',
    'Ember',
    'Fjord',
    'Grove',
    'Heath',
    'Inlet',
    'Jetty',
    'Knoll',
    'Lagoon',
    'Marsh',
    'North',
    'Orchard',
    'Pine',
    'Quarry',
    'River',
    'Shore',
    'Tarn',
    'Upland',
    'Vale',
    'Wharf',
    'Yarrow',
  ]
  const SECOND = [
    'acre',
    'bank',
    'croft',
    'dale',
    'field',
    'ford',
    'gate',
    'holm',
    'keld',
    'ley',
    'mere',
    'ness',
    'pool',
    'rigg',
    'stead',
    'thorpe',
    'wick',
    'worth',
  ]
  const LAST = ['Foods', 'Mills', 'Growers', 'Supply', 'Trading', 'Labs', 'Farms', 'Bakers', 'Seeds', 'Works']
  /** Each pair of syllables once, then again with a letter. */
  const nameOf = (n: number, last: string): string => {
    const pair = `${FIRST[n % FIRST.length]}${SECOND[Math.floor(n / FIRST.length) % SECOND.length]}`
    const round = Math.floor(n / (FIRST.length * SECOND.length))
    return [pair, last, ...(round ? [String.fromCharCode(65 + round)] : [])].join(' ')
  }
  const payers: Payer[] = Array.from({ length: customers }, (_, n) => ({
    number: String(10_000 + n),
    name: nameOf(n, LAST[c.whole(0, LAST.length - 1)]!),
    country: 'IE',
    currency: 'EUR',
    iban: c.happens(0.75)
      ? `IE${String(10 + (n % 89))}ZZZZ${String(c.whole(0, 99_999_999_999_999)).padStart(14, '0')}`
      : '',
    takesDiscount: c.happens(0.35),
    invoices: [],
    credits: [],
  }))
  for (let n = 0; n < items; n++) {
    const p = c.pick(payers)
    const date = addDays(day, -c.whole(1, 110))
    const amount = c.happens(0.15) ? c.whole(2, 60) * 5000 : c.whole(4_000, 900_000)
    const discounts = c.happens(0.4) ? [{ date: addDays(date, 10), amount: share(amount, 2, 100) }] : []
    if (c.happens(0.03))
      p.credits.push({ number: `C${26}-${String(n).padStart(5, '0')}`, open: Math.min(amount, 30_000) })
    else
      p.invoices.push({
        number: `26-${String(n).padStart(5, '0')}`,
        open: amount,
        amount,
        date,
        due: addDays(date, 30),
        payOn: '2999-12-31',
        discounts,
      })
  }
  for (const p of payers) {
    p.invoices.sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : a.number < b.number ? -1 : 1))
    const ready = p.invoices.filter(
      i => i.due <= addDays(day, 8) || (p.takesDiscount && i.discounts.some(d => d.date >= day)),
    )
    // Most pay one or a few of the oldest; some pay all that is due, and leave out what they argue about.
    const n = c.happens(0.55) ? 1 : c.happens(0.6) ? c.whole(2, 4) : ready.length
    for (const i of ready.slice(0, n)) if (ready.length < 3 || !c.happens(0.06)) i.payOn = day
  }
  return payers
}

/** A day's plan moved on: what is left of an invoice is promised for some months later. */
export const later = (day: IsoDate, months: number): IsoDate => onBankWorkingDay(addMonths(day, months))
