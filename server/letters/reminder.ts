import { claimedBy, type Notice } from '../../core/reminders'
import type { Addressed } from './head'
import { paymentCode } from './payment'
import { reminderWordsOf } from './reminderWords'
import { sheetPdf, type LetterSheet, type SheetSection } from './sheet'
import { formatDate, formatMoney, formatPercent, type LetterText } from './text'
import { wordsOf } from './words'

/** A reminder or interest note as it is kept: all that its PDF shows follows from it. */
export interface ReminderLetter extends Addressed {
  language: string
  number: string
  date: string
  text: LetterText
  /** Notices of before interest was claimed have none of it. */
  notice: Omit<Notice, 'interest' | 'interestLines'> & Partial<Pick<Notice, 'interest' | 'interestLines'>>
  /** Balance by age in the notice's currency, fresh to old. */
  strata: number[]
  bucketLabels: string[]
}

/** What stands above the items, and the greeting below them: the last paragraph, when it is a short one. */
function partsOf(body: string): { before: string; closing: string } {
  const paragraphs = body.split(/\n{2,}/)
  const last = paragraphs.at(-1)!
  const isClosing = paragraphs.length > 1 && last.split('\n').length <= 3 && last.length < 160
  return isClosing
    ? { before: paragraphs.slice(0, -1).join('\n\n'), closing: last }
    : { before: body, closing: '' }
}

/** Items with days late, fee, interest, total: what is asked for. */
function claimSection(letter: ReminderLetter): SheetSection {
  const { notice, language } = letter
  const { words } = wordsOf(language)
  const own = reminderWordsOf(language)
  const money = (amount: number) => formatMoney(amount, notice.currency, language)
  const day = (date: string) => formatDate(date, language)
  const interest = notice.interest ?? 0
  const claimed = claimedBy({ ...notice, interest })
  const isNote = notice.level === 0
  const rows = isNote
    ? []
    : notice.items.map(i => [
        i.part > 1 ? `${i.number} (${i.part})` : i.number,
        day(i.dueDate),
        String(i.daysLate),
        money(i.open),
      ])
  if (notice.fee) rows.push([own.fee, day(letter.date), '', money(notice.fee)])
  if (interest) rows.push([own.interest, day(letter.date), '', money(interest)])
  const toPay = isNote ? interest : claimed
  const { amounts, texts } = strataOf(letter, money)
  return {
    title: '',
    columns: [
      { label: words.document, share: 0.34 },
      { label: words.due, share: 0.22 },
      { label: words.late, share: 0.18, right: true },
      { label: words.open, share: 0.26, right: true },
    ],
    rows,
    totals: [[own.toPay, day(notice.deadline), '', money(toPay)]],
    strata: amounts.length ? { amounts, texts } : null,
    qr: paymentCode(letter, {
      currency: notice.currency,
      amount: toPay,
      reference: letter.reference ?? '',
      text: letter.customer.number,
    }),
  }
}

function strataOf({ strata, bucketLabels }: ReminderLetter, money: (amount: number) => string) {
  if (!strata.some(part => part > 0)) return { amounts: [], texts: [] }
  const texts = strata.flatMap((part, i) => (part ? [`${bucketLabels[i]} ${money(part)}`] : []))
  return { amounts: strata, texts }
}

/** Interest by item and period: from, to, days, rate, what it is charged on, what it comes to. */
function interestSection(letter: ReminderLetter): SheetSection | null {
  const { notice, language } = letter
  const lines = notice.interestLines ?? []
  if (!lines.length) return null
  const { words } = wordsOf(language)
  const own = reminderWordsOf(language)
  const money = (amount: number) => formatMoney(amount, notice.currency, language)
  const day = (date: string) => formatDate(date, language)
  return {
    title: own.interest,
    columns: [
      { label: words.document, share: 0.17 },
      { label: own.from, share: 0.16 },
      { label: own.to, share: 0.16 },
      { label: own.days, share: 0.08, right: true },
      { label: own.rate, share: 0.1, right: true },
      { label: own.base, share: 0.18, right: true },
      { label: words.amount, share: 0.15, right: true },
    ],
    rows: lines.map(l => [
      l.number,
      day(l.from),
      day(l.to),
      String(l.days),
      formatPercent(l.rate, language),
      money(l.base),
      money(l.amount),
    ]),
    totals: [],
    strata: null,
    qr: '',
    explains: true,
  }
}

/** A reminder as the letter that is printed. */
export function reminderSheet(letter: ReminderLetter): LetterSheet {
  const { words } = wordsOf(letter.language)
  const own = reminderWordsOf(letter.language)
  const { before, closing } = partsOf(letter.text.body)
  const interest = interestSection(letter)
  const claim = claimSection(letter)
  return {
    company: letter.company,
    house: letter.house,
    customer: letter.customer,
    reference: letter.reference,
    language: letter.language,
    number: letter.number,
    date: letter.date,
    subject: letter.text.subject,
    facts: [
      [letter.notice.level === 0 ? own.interestNote : own.notice, letter.number],
      [words.date, formatDate(letter.date, letter.language)],
      [words.account, letter.customer.number],
    ],
    before,
    sections: interest ? [claim, interest] : [claim],
    closing,
    pays: true,
  }
}

/** Reminders as a PDF on A4, one after another. */
export const remindersPdf = (letters: readonly ReminderLetter[]): Promise<Buffer> =>
  sheetPdf(letters.map(reminderSheet))
