import type { Notice } from '../../core/reminders'
import { drawFeet, drawHead, payingLines, type Addressed } from './head'
import { AGES, INK, LEFT, letterDocument, sansFor, SOFT, type PaperColumn } from './paper'
import { formatDate, formatMoney, type LetterText } from './text'

export interface ReminderLetter extends Addressed {
  language: string
  number: string
  date: string
  text: LetterText
  notice: Notice
  /** Balance by age in the notice's currency, fresh to old. */
  strata: number[]
  bucketLabels: string[]
}

const WORDS: Record<
  string,
  Record<
    | 'notice'
    | 'invoice'
    | 'date'
    | 'due'
    | 'late'
    | 'open'
    | 'fee'
    | 'total'
    | 'page'
    | 'account'
    | 'pay'
    | 'reference'
    | 'tax',
    string
  >
> = {
  en: {
    notice: 'Notice',
    invoice: 'Document',
    date: 'Date',
    due: 'Due',
    late: 'Days late',
    open: 'Open',
    fee: 'Reminder fee',
    total: 'Total to pay',
    page: 'Page',
    account: 'Account',
    pay: 'Please pay to',
    reference: 'Payment reference',
    tax: 'VAT',
  },
  de: {
    notice: 'Mahnung',
    invoice: 'Beleg',
    date: 'Datum',
    due: 'Fällig',
    late: 'Tage überfällig',
    open: 'Offen',
    fee: 'Mahngebühr',
    total: 'Zu zahlen',
    page: 'Seite',
    account: 'Konto',
    pay: 'Bitte zahlen Sie an',
    reference: 'Zahlungsreferenz',
    tax: 'USt-IdNr.',
  },
  fr: {
    notice: 'Relance',
    invoice: 'Document',
    date: 'Date',
    due: 'Échéance',
    late: 'Jours de retard',
    open: 'Solde',
    fee: 'Frais de relance',
    total: 'Total à payer',
    page: 'Page',
    account: 'Compte',
    pay: 'Merci de régler à',
    reference: 'Référence de paiement',
    tax: 'TVA',
  },
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

/** The reminder as a PDF on A4: text, the items with days late, fee, total. */
export function reminderPdf(letter: ReminderLetter): Promise<Buffer> {
  const { notice, language } = letter
  const words = WORDS[language] ?? WORDS.en!
  const money = (amount: number) => formatMoney(amount, notice.currency, WORDS[language] ? language : 'en')
  const day = (date: string) => formatDate(date, WORDS[language] ? language : 'en')
  const paper = letterDocument(letter.company, `${words.notice} ${letter.number}`)
  const { doc, ended, width, row: drawRow, rule } = paper
  const left = LEFT
  const { before, closing } = partsOf(letter.text.body)
  drawHead(
    paper,
    letter,
    language,
    [
      [words.notice, letter.number],
      [words.date, day(letter.date)],
      [words.account, letter.customer.number],
    ],
    letter.text.subject,
  )
  doc
    .moveDown(0.6)
    .font(sansFor(before))
    .fontSize(10.5)
    .text(before, { width, lineGap: 2.5, paragraphGap: 5 })
  doc.moveDown(1)

  const columns: PaperColumn[] = [
    { at: 0, w: 150 },
    { at: 150, w: 95 },
    { at: 245, w: 90, right: true },
    { at: 335, w: width - 335, right: true },
  ]
  let y = doc.y
  const row = (cells: string[], style: 'sans' | 'bold', tone: string) => {
    if (y > doc.page.height - 110) {
      doc.addPage()
      y = 60
    }
    drawRow(cells, columns, y, { bold: style === 'bold', soft: tone === SOFT })
    y += 17
    rule(y - 4)
  }
  row([words.invoice, words.due, words.late, words.open], 'sans', SOFT)
  for (const item of notice.items)
    row(
      [
        item.part > 1 ? `${item.number} (${item.part})` : item.number,
        day(item.dueDate),
        String(item.daysLate),
        money(item.open),
      ],
      'sans',
      INK,
    )
  if (notice.fee) row([words.fee, day(letter.date), '', money(notice.fee)], 'sans', INK)
  row([words.total, day(notice.deadline), '', money(notice.total + notice.fee)], 'bold', INK)

  const paying = payingLines(letter, words)
  if (y > doc.page.height - 120 - paying.length * 14) {
    doc.addPage()
    y = 60
  }
  y += 10
  for (const [label, value] of paying) {
    doc.font('sans').fontSize(9.5).fillColor(SOFT).text(label!, left, y, { width: 130, lineBreak: false })
    doc
      .font('bold')
      .fillColor(INK)
      .text(value!, left + 135, y, { width: width - 135, lineBreak: false })
    y += 14
  }
  if (closing) {
    doc
      .font(sansFor(closing))
      .fontSize(10.5)
      .fillColor(INK)
      .text(closing, left, y + 12, { width, lineGap: 2.5 })
    y = doc.y
  }

  const sum = letter.strata.reduce((a, b) => a + b, 0)
  if (sum > 0 && y < doc.page.height - 130) {
    y += 12
    let x = left
    letter.strata.forEach((part, i) => {
      const w = (width * part) / sum
      doc.rect(x, y, w, 9).fill(AGES[i]!)
      x += w
    })
    doc
      .font('sans')
      .fontSize(8.5)
      .fillColor(SOFT)
      .text(
        letter.strata
          .map((part, i) => (part ? `${letter.bucketLabels[i]} ${money(part)}` : ''))
          .filter(Boolean)
          .join('   '),
        left,
        y + 13,
        { width },
      )
  }
  drawFeet(paper, letter, words, letter.number, doc.bufferedPageRange())
  doc.end()
  return ended
}
