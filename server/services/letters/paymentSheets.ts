import type { IsoDate } from '../../../core/calendar'
import type { RefundMethod } from '../../../core/refunds'
import { paymentWordsOf } from '../../letters/paymentWords'
import type { LetterSheet, SheetSection } from '../../letters/sheet'
import type { Settings } from '../../db/settings'
import { base, greeting, saying, type Recipient } from './sheets'

/** Letters about money that goes back, and money that is collected. Amounts in minor units. */

const grouped = (iban: string): string => iban.replace(/(.{4})(?=.)/g, '$1 ')

interface CreditLine {
  number: string
  date: IsoDate
  amount: number
}

function creditTable(
  language: string,
  label: string,
  currency: string,
  credits: readonly CreditLine[],
): SheetSection {
  const { words, money, day } = saying(language)
  const total = credits.reduce((sum, c) => sum + c.amount, 0)
  return {
    title: '',
    columns: [
      { label, share: 0.4 },
      { label: words.date, share: 0.3 },
      { label: words.amount, share: 0.3, right: true },
    ],
    rows: credits.map(c => [c.number, day(c.date), money(c.amount, currency)]),
    totals: [[words.total, '', money(total, currency)]],
    strata: null,
    qr: '',
  }
}

export interface RefundTold {
  number: string
  currency: string
  method: RefundMethod
  iban: string
  cheque: string
  credits: readonly CreditLine[]
}

/** What goes back, where to, and for which credits. */
export function refundSheet(settings: Settings, customer: Recipient, refund: RefundTold): LetterSheet {
  const { words, day, language } = saying(customer.language)
  const own = paymentWordsOf(language)
  const how = {
    transfer: own.byTransfer(grouped(refund.iban)),
    cheque: own.byCheque(refund.cheque),
    card: own.byCard,
    cash: own.inCash,
  }[refund.method]
  return {
    ...base(settings, customer, refund.number, ''),
    subject: own.refund,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
      [words.reference, refund.number],
    ],
    before: `${greeting(words, customer)}\n\n${own.refundText(how)}`,
    sections: [creditTable(customer.language, own.credit, refund.currency, refund.credits)],
    pays: false,
  }
}

/** That credit waits for the customer, who says nothing. */
export function unclaimedSheet(
  settings: Settings,
  customer: Recipient,
  currency: string,
  credits: readonly CreditLine[],
): LetterSheet {
  const { words, day, language } = saying(customer.language)
  const own = paymentWordsOf(language)
  return {
    ...base(settings, customer, `${customer.number}-${settings.today}`, ''),
    subject: own.unclaimed,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: `${greeting(words, customer)}\n\n${own.unclaimedText}`,
    sections: [creditTable(customer.language, own.credit, currency, credits)],
    pays: false,
  }
}

export interface NoticeTold {
  number: string
  collectOn: IsoDate
  amount: number
  mandate: string
  creditorId: string
  iban: string
  items: readonly { number: string; due: IsoDate; amount: number; discount: number }[]
  /** What credits of the account take off an item. */
  credits: readonly { item: string; amount: number }[]
}

const CURRENCY = 'EUR'

/** Advance notice of a collection: the exact amount and day, the mandate and who collects. */
export function noticeSheet(settings: Settings, customer: Recipient, told: NoticeTold): LetterSheet {
  const { words, money, day, language } = saying(customer.language)
  const own = paymentWordsOf(language)
  const cell = (amount: number) => (amount ? money(amount, CURRENCY) : '')
  const offOf = (item: string) =>
    told.credits.filter(c => c.item === item).reduce((sum, c) => sum + c.amount, 0)
  const off = told.items.reduce((sum, i) => sum + i.discount + offOf(i.number), 0)
  return {
    ...base(settings, customer, told.number, ''),
    subject: own.notice,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
      [own.account, day(told.collectOn)],
      [own.mandate, told.mandate],
    ],
    before: [
      greeting(words, customer),
      own.noticeText(day(told.collectOn), money(told.amount, CURRENCY)),
      `${own.creditor}: ${told.creditorId}\n${own.debited}: ${grouped(told.iban)}\n${words.reference}: ${told.number}`,
    ].join('\n\n'),
    sections: [
      {
        title: '',
        columns: [
          { label: words.document, share: 0.34 },
          { label: words.due, share: 0.22 },
          { label: own.deducted, share: 0.2, right: true },
          { label: own.collected, share: 0.24, right: true },
        ],
        rows: told.items.map(i => [
          i.number,
          day(i.due),
          cell(i.discount + offOf(i.number)),
          money(i.amount, CURRENCY),
        ]),
        totals: [[words.total, '', cell(off), money(told.amount, CURRENCY)]],
        strata: null,
        qr: '',
      },
    ],
    pays: false,
  }
}

export interface AssignmentTold {
  schedule: string
  factor: string
  iban: string
  currency: string
  items: readonly { number: string; due: IsoDate; amount: number }[]
}

/** That invoices were given to a factor: the debtor pays it, and nobody else, from now on. */
export function assignmentSheet(settings: Settings, customer: Recipient, told: AssignmentTold): LetterSheet {
  const { words, money, day, language } = saying(customer.language)
  const own = paymentWordsOf(language)
  const total = told.items.reduce((sum, i) => sum + i.amount, 0)
  return {
    ...base(settings, customer, told.schedule, ''),
    subject: `${own.assignment}, ${told.schedule}`,
    facts: [
      [words.date, day(settings.today)],
      [words.account, customer.number],
    ],
    before: [
      greeting(words, customer),
      own.assignmentText(told.factor),
      `${own.payTo}: ${told.factor}${told.iban ? `, ${grouped(told.iban)}` : ''}`,
    ].join('\n\n'),
    sections: [
      {
        title: '',
        columns: [
          { label: words.document, share: 0.4 },
          { label: words.due, share: 0.3 },
          { label: words.amount, share: 0.3, right: true },
        ],
        rows: told.items.map(i => [i.number, day(i.due), money(i.amount, told.currency)]),
        totals: [[words.total, '', money(total, told.currency)]],
        strata: null,
        qr: '',
      },
    ],
    pays: false,
  }
}

export interface DebtClaimed {
  number: string
  date: IsoDate
  due: IsoDate
  currency: string
  amount: number
}

/** A claim in an insolvency, addressed to the administrator: every debt, and their sum by currency. */
export function debtClaimSheet(
  settings: Settings,
  debtor: Recipient,
  claim: {
    administrator: string
    address: string
    reference: string
    openedOn: IsoDate
    items: readonly DebtClaimed[]
  },
): LetterSheet {
  const { words, money, day, language } = saying(debtor.language)
  const own = paymentWordsOf(language)
  const [street = '', ...town] = claim.address.split(',').map(line => line.trim())
  const administrator: Recipient = {
    ...debtor,
    ...{ name: claim.administrator, contact: '', street, postcode: '', city: town.join(', ') },
  }
  const sums = new Map<string, number>()
  for (const { currency, amount } of claim.items) sums.set(currency, (sums.get(currency) ?? 0) + amount)
  return {
    ...base(settings, administrator, `${debtor.number}-${settings.today}`, ''),
    subject: claim.reference ? `${own.debtClaim}, ${claim.reference}` : own.debtClaim,
    facts: [
      [words.date, day(settings.today)],
      [words.account, `${debtor.number} ${debtor.name}`],
    ],
    before: `${words.dear(claim.administrator)}\n\n${own.debtClaimText(debtor.name, day(claim.openedOn))}`,
    sections: [
      {
        title: '',
        columns: [
          { label: words.document, share: 0.28 },
          { label: words.date, share: 0.22 },
          { label: words.due, share: 0.22 },
          { label: words.amount, share: 0.28, right: true },
        ],
        rows: claim.items.map(i => [i.number, day(i.date), day(i.due), money(i.amount, i.currency)]),
        totals: [...sums].map(([currency, amount]) => [words.total, '', '', money(amount, currency)]),
        strata: null,
        qr: '',
      },
    ],
    pays: false,
  }
}
