import { age } from '../../../core/aging'
import { addDays, daysLate, type IsoDate } from '../../../core/calendar'
import { KINDS, type ItemKind } from '../../../core/ledger'
import { paymentCode, referenceOf } from '../../letters/payment'
import { reminderWordsOf } from '../../letters/reminderWords'
import type { LetterSheet, SheetSection } from '../../letters/sheet'
import { formatDate, formatMoney, formatPercent } from '../../letters/text'
import type { Claimed } from '../../../core/reminders'
import { wordsOf, type LetterWords } from '../../letters/words'
import type { Settings } from '../../db/settings'

/** Who a letter goes to, as far as it is printed. */
export interface Recipient {
  number: string
  name: string
  contact: string
  street: string
  postcode: string
  city: string
  country: string
  language: string
}

/** An item on a statement. Amounts signed, minor units: credits negative. */
export interface StatementItem {
  number: string
  kind: ItemKind
  currency: string
  date: IsoDate
  due: IsoDate
  amount: number
  open: number
}

/** How a statement tells the account: what is open, or what moved since a day. */
export type StatementForm = 'open-item' | 'balance-forward'

export interface StatementAsk {
  form: StatementForm
  asOf: IsoDate
  /** Of a balance carried forward the last day before it begins. */
  from: IsoDate
}

const qrOf = (settings: Settings, currency: string, amount: number, reference: string, text: string) =>
  paymentCode(settings, { currency, amount, reference, text })

function kindWord(kind: ItemKind, words: LetterWords, language: string): string {
  if (kind === 'interest' || kind === 'compensation') return reminderWordsOf(language)[kind]
  if (kind in words.kinds) return words.kinds[kind as keyof LetterWords['kinds']]
  return KINDS[kind].money ? words.kinds.receipt : words.kinds.other
}

interface Saying {
  words: LetterWords
  money: (amount: number, currency: string) => string
  day: (date: IsoDate) => string
  kind: (kind: ItemKind) => string
}

export function saying(language: string): Saying & { language: string } {
  const { words, language: known } = wordsOf(language)
  return {
    words,
    language: known,
    money: (amount, currency) => formatMoney(amount, currency, known),
    day: date => formatDate(date, known),
    kind: kind => kindWord(kind, words, known),
  }
}

function openItems(
  settings: Settings,
  currency: string,
  items: readonly StatementItem[],
  asOf: IsoDate,
  reference: string,
  { words, money, day, kind }: Saying,
): SheetSection {
  const own = items.filter(i => i.currency === currency && i.open !== 0)
  const total = own.reduce((sum, i) => sum + i.open, 0)
  const aged = age(
    own.map(i => ({ open: i.open, date: i.due })),
    asOf,
    settings.buckets,
  )
  const overdue = aged.amounts.slice(1).reduce((a, b) => a + b, 0)
  const texts = aged.amounts
    .map((amount, n) =>
      amount ? `${n === 0 ? words.notDue : settings.buckets[n]!.label} ${money(amount, currency)}` : '',
    )
    .filter(Boolean)
  return {
    title: '',
    columns: [
      { label: words.document, share: 0.3 },
      { label: words.date, share: 0.16 },
      { label: words.due, share: 0.16 },
      { label: words.late, share: 0.14, right: true },
      { label: words.open, share: 0.24, right: true },
    ],
    rows: own.map(i => {
      const late = daysLate(i.due, asOf)
      return [
        `${kind(i.kind)} ${i.number}`,
        day(i.date),
        i.open > 0 ? day(i.due) : '',
        i.open > 0 && late > 0 ? String(late) : '',
        money(i.open, currency),
      ]
    }),
    totals: [
      [words.total, '', '', '', money(total, currency)],
      ...(overdue > 0 ? [[words.overdue, '', '', '', money(overdue, currency)]] : []),
    ],
    strata: { amounts: aged.amounts, texts },
    qr: qrOf(settings, currency, total, reference, ''),
  }
}

function movements(
  settings: Settings,
  currency: string,
  items: readonly StatementItem[],
  { asOf, from }: StatementAsk,
  reference: string,
  { words, money, day, kind }: Saying,
): SheetSection {
  const own = items.filter(i => i.currency === currency && i.date <= asOf)
  const brought = own.filter(i => i.date <= from).reduce((sum, i) => sum + i.amount, 0)
  let balance = brought
  const rows = own
    .filter(i => i.date > from)
    .sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : 0))
    .map(i => {
      balance += i.amount
      return [day(i.date), `${kind(i.kind)} ${i.number}`, money(i.amount, currency), money(balance, currency)]
    })
  const aged = age(
    own.filter(i => i.open !== 0).map(i => ({ open: i.open, date: i.due })),
    asOf,
    settings.buckets,
  )
  return {
    title: '',
    columns: [
      { label: words.date, share: 0.16 },
      { label: words.document, share: 0.36 },
      { label: words.amount, share: 0.24, right: true },
      { label: words.balance, share: 0.24, right: true },
    ],
    rows: [[day(from), words.brought, '', money(brought, currency)], ...rows],
    totals: [['', words.carried, '', money(balance, currency)]],
    strata: {
      amounts: aged.amounts,
      texts: aged.amounts
        .map((amount, n) =>
          amount ? `${n === 0 ? words.notDue : settings.buckets[n]!.label} ${money(amount, currency)}` : '',
        )
        .filter(Boolean),
    },
    qr: qrOf(settings, currency, balance, reference, ''),
  }
}

export const base = (settings: Settings, customer: Recipient, number: string, reference: string) => {
  const { words, language } = wordsOf(customer.language)
  return {
    company: settings.company,
    house: settings.house,
    customer,
    reference,
    language,
    number,
    date: settings.today,
    closing: `${words.regards}\n${settings.company}`,
  }
}
export const greeting = (words: LetterWords, customer: Recipient) =>
  words.dear(customer.contact || customer.name)

/** A statement of account: for each currency what is open, or what moved since a day. */
export function statementSheet(
  settings: Settings,
  customer: Recipient,
  items: readonly StatementItem[],
  ask: StatementAsk,
): LetterSheet {
  const said = saying(customer.language)
  const { words, day } = said
  const reference = referenceOf(customer.number)
  const currencies = [...new Set(items.map(i => i.currency))].sort()
  const sections = currencies
    .map(currency =>
      ask.form === 'open-item'
        ? openItems(settings, currency, items, ask.asOf, reference, said)
        : movements(settings, currency, items, ask, reference, said),
    )
    .filter(s => s.rows.length > 0)
  return {
    ...base(settings, customer, customer.number, reference),
    subject: words.statement,
    facts: [
      ...(ask.form === 'balance-forward'
        ? [[words.from, day(addDays(ask.from, 1))] as [string, string]]
        : []),
      [words.asOf, day(ask.asOf)],
      [words.account, customer.number],
    ],
    before: `${greeting(words, customer)}\n\n${sections.length ? words.statementText : words.nothingOpen}`,
    sections,
    pays: sections.length > 0,
  }
}

/** A document as it stands in our books, for a copy. */
export interface DocumentCopied extends StatementItem {
  tax: number
  order: string
  text: string
  discounts: readonly { date: IsoDate; amount: number }[]
}

/** A copy of a document: what our books hold of it. */
export function copySheet(settings: Settings, customer: Recipient, item: DocumentCopied): LetterSheet {
  const { words, money, day, kind } = saying(customer.language)
  const amount = Math.abs(item.amount)
  const reference = referenceOf(item.number)
  const line = (label: string, value: string) => [label, value]
  const rows = [
    ...(item.tax
      ? [
          line(words.net, money(amount - item.tax, item.currency)),
          line(words.tax, money(item.tax, item.currency)),
        ]
      : []),
    ...item.discounts.map(d => line('', words.discount(money(d.amount, item.currency), day(d.date)))),
    ...(item.text ? [line('', item.text.slice(0, 80))] : []),
  ]
  return {
    ...base(settings, customer, item.number, reference),
    subject: words.copyOf(kind(item.kind), item.number),
    facts: [
      [words.date, day(item.date)],
      [words.due, day(item.due)],
      [words.account, customer.number],
      ...(item.order ? [[words.order, item.order] as [string, string]] : []),
    ],
    before: `${greeting(words, customer)}\n\n${words.copyText}`,
    sections: [
      {
        title: '',
        columns: [
          { label: kind(item.kind), share: 0.4 },
          { label: item.number, share: 0.6, right: true },
        ],
        rows,
        totals: [
          [words.amount, money(amount, item.currency)],
          [words.stillOpen, money(Math.abs(item.open), item.currency)],
        ],
        strata: null,
        qr: item.open > 0 ? qrOf(settings, item.currency, item.open, reference, '') : '',
      },
    ],
    pays: item.open > 0,
  }
}

/** A plan: its dates and amounts. */
export function planSheet(
  settings: Settings,
  customer: Recipient,
  plan: { id: number; currency: string; parts: readonly { date: IsoDate; amount: number }[] },
): LetterSheet {
  const { words, money, day } = saying(customer.language)
  const reference = referenceOf(customer.number)
  const total = plan.parts.reduce((sum, p) => sum + p.amount, 0)
  return {
    ...base(settings, customer, `${customer.number}-${plan.id}`, reference),
    subject: words.plan,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: `${greeting(words, customer)}\n\n${words.planText}`,
    sections: [
      {
        title: '',
        columns: [
          { label: words.due, share: 0.5 },
          { label: words.amount, share: 0.5, right: true },
        ],
        rows: plan.parts.map(p => [day(p.date), money(p.amount, plan.currency)]),
        totals: [[words.total, money(total, plan.currency)]],
        strata: null,
        qr: qrOf(settings, plan.currency, plan.parts[0]!.amount, reference, ''),
      },
    ],
    pays: true,
  }
}

/** That a dispute was looked into and its items are owed. */
export function upheldSheet(
  settings: Settings,
  customer: Recipient,
  dispute: {
    id: number
    currency: string
    text: string
    items: readonly { number: string; amount: number }[]
  },
): LetterSheet {
  const { words, money, day } = saying(customer.language)
  const reference = referenceOf(customer.number)
  const total = dispute.items.reduce((sum, i) => sum + i.amount, 0)
  return {
    ...base(settings, customer, `${customer.number}-D${dispute.id}`, reference),
    subject: words.upheld,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: [greeting(words, customer), words.upheldText, dispute.text].filter(Boolean).join('\n\n'),
    sections: [
      {
        title: '',
        columns: [
          { label: words.document, share: 0.6 },
          { label: words.open, share: 0.4, right: true },
        ],
        rows: dispute.items.map(i => [i.number, money(i.amount, dispute.currency)]),
        totals: [[words.total, money(total, dispute.currency)]],
        strata: null,
        qr: qrOf(settings, dispute.currency, total, reference, ''),
      },
    ],
    pays: true,
  }
}

/** Tells a customer that a reminder does not hold. */
export function withdrawnSheet(
  settings: Settings,
  customer: Recipient,
  notice: { number: string },
): LetterSheet {
  const { words, day } = saying(customer.language)
  const own = reminderWordsOf(customer.language)
  return {
    ...base(settings, customer, `${notice.number}-W`, ''),
    subject: own.withdrawn,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: [greeting(words, customer), own.withdrawnText(notice.number)].join('\n\n'),
    sections: [],
    closing: `${words.regards}\n${settings.company}`,
    pays: false,
  }
}

/** Claims for late payment by law: compensation for each debt, interest by period. */
export function claimSheet(
  settings: Settings,
  customer: Recipient,
  claim: { number: string; law: string; currency: string; facts: Claimed },
): LetterSheet {
  const { words, money, day, language } = saying(customer.language)
  const own = reminderWordsOf(customer.language)
  const reference = referenceOf(customer.number)
  const { interest, compensation } = claim.facts
  const sums = new Map<string, number>()
  const add = (currency: string, amount: number) => sums.set(currency, (sums.get(currency) ?? 0) + amount)
  const rows = [
    ...interest.flatMap(i =>
      i.claims.flatMap(c =>
        c.interest.map(l => {
          add(c.currency, l.amount)
          const period = `${day(l.from)} – ${day(l.to)}, ${l.days} × ${formatPercent(l.rate, language)}`
          return [`${own.interest} ${c.number}`, period, money(l.amount, c.currency)]
        }),
      ),
    ),
    ...compensation.map(({ claim: c }) => {
      add(claim.currency, c.compensation)
      return [`${own.compensation} ${c.number}`, '', money(c.compensation, claim.currency)]
    }),
  ]
  const totals = [...sums].map(([currency, amount]) => [own.toPay, '', money(amount, currency)])
  return {
    ...base(settings, customer, claim.number, reference),
    subject: own.interest,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: [greeting(words, customer), own.claimText(claim.law)].join('\n\n'),
    sections: [
      {
        title: '',
        columns: [
          { label: words.document, share: 0.34 },
          { label: own.days, share: 0.42 },
          { label: words.amount, share: 0.24, right: true },
        ],
        rows,
        totals,
        strata: null,
        qr: qrOf(settings, 'EUR', sums.get('EUR') ?? 0, reference, customer.number),
      },
    ],
    closing: `${words.regards}\n${settings.company}`,
    pays: true,
  }
}
