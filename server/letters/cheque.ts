import type { IsoDate } from '../../core/calendar'
import type { House } from '../db/settings'
import { senderOf } from './head'
import { amountInWords } from './inWords'
import { INK, LEFT, letterDocument, RULE, sansFor, serifFor, SOFT } from './paper'
import { formatDate, formatMoney } from './text'

export interface ChequeDrawn {
  company: string
  house: House
  account: { name: string; iban: string; bic: string }
  number: string
  date: IsoDate
  payee: string
  /** Minor units. */
  amount: number
  currency: string
  /** Of whom it is for. */
  language: string
  reference: string
}

/** What the words of a cheque say around the amount. */
const WORDS: Record<string, { pay: string; sum: string; date: string; signed: string; of: string }> = {
  en: { pay: 'Pay', sum: 'the sum of', date: 'Date', signed: 'Signed', of: 'For' },
  de: { pay: 'Zahlen Sie an', sum: 'den Betrag von', date: 'Datum', signed: 'Unterschrift', of: 'Für' },
  fr: { pay: 'Payez à', sum: 'la somme de', date: 'Date', signed: 'Signature', of: 'Pour' },
  it: { pay: 'Pagate a', sum: 'la somma di', date: 'Data', signed: 'Firma', of: 'Per' },
  es: { pay: 'Páguese a', sum: 'la cantidad de', date: 'Fecha', signed: 'Firma', of: 'Por' },
  no: { pay: 'Betal til', sum: 'beløpet', date: 'Dato', signed: 'Underskrift', of: 'For' },
}

/** Words are filled up, so that nobody writes anything before or behind them (common practice). */
const filled = (words: string): string => `*** ${words} ***`

const HEIGHT = 230

/** A cheque on a sheet of A4, to be cut: payee, amount in figures and words, date, account, number. */
export async function chequePdf(c: ChequeDrawn): Promise<Buffer> {
  const paper = letterDocument(c.company, `Cheque ${c.number}`)
  const { doc, ended, right, width, text } = paper
  const language = c.language in WORDS ? c.language : 'en'
  const words = WORDS[language]!
  const top = 110
  doc
    .rect(LEFT - 10, top, width + 20, HEIGHT)
    .lineWidth(0.7)
    .strokeColor(RULE)
    .stroke()
  text(senderOf(c), LEFT, top + 14, { size: 8, soft: true })
  text(`${words.date} ${formatDate(c.date, language)}`, right - 150, top + 14, { size: 10 })
  text(words.pay, LEFT, top + 48, { soft: true })
  doc
    .font(serifFor(c.payee))
    .fontSize(14)
    .fillColor(INK)
    .text(c.payee, LEFT + 90, top + 44)
  text(words.sum, LEFT, top + 84, { soft: true })
  const inWords = filled(amountInWords(c.amount, c.currency, language))
  doc
    .font(sansFor(inWords))
    .fontSize(11)
    .fillColor(INK)
    .text(inWords, LEFT + 90, top + 82, { width: width - 90 - 150 })
  doc
    .rect(right - 136, top + 76, 136, 30)
    .lineWidth(0.7)
    .strokeColor(INK)
    .stroke()
  doc
    .font('bold')
    .fontSize(12)
    .text(formatMoney(c.amount, c.currency, language), right - 132, top + 85, { width: 128, align: 'right' })
  text(`${words.of} ${c.reference}`, LEFT, top + 136, { size: 9.5, soft: true })
  doc
    .moveTo(right - 200, top + 182)
    .lineTo(right, top + 182)
    .lineWidth(0.5)
    .strokeColor(INK)
    .stroke()
  text(words.signed, right - 200, top + 186, { size: 8, soft: true })
  const foot = [c.number, c.account.iban.replace(/(.{4})(?=.)/g, '$1 '), c.account.bic]
    .filter(Boolean)
    .join('    ')
  doc
    .font('sans')
    .fontSize(10)
    .fillColor(SOFT)
    .text(foot, LEFT, top + HEIGHT - 22)
  doc.end()
  return ended
}
