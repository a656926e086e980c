import type { Notice } from '../../core/reminders'
import { AGES, INK, LEFT, letterDocument, sansFor, serifFor, SOFT, type PaperColumn } from './paper'
import { formatDate, formatMoney, type LetterText } from './text'

export interface ReminderLetter {
  company: string
  customer: { name: string; number: string; contact: string; country: string }
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
    'notice' | 'invoice' | 'date' | 'due' | 'late' | 'open' | 'fee' | 'total' | 'page' | 'account',
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
  },
}

/** The reminder as a PDF on A4: text, the items with days late, fee, total. */
export function reminderPdf(letter: ReminderLetter): Promise<Buffer> {
  const { notice, language } = letter
  const words = WORDS[language] ?? WORDS.en!
  const money = (amount: number) => formatMoney(amount, notice.currency, WORDS[language] ? language : 'en')
  const day = (date: string) => formatDate(date, WORDS[language] ? language : 'en')
  const {
    doc,
    ended,
    right,
    width,
    row: drawRow,
    rule,
  } = letterDocument(letter.company, `${words.notice} ${letter.number}`)
  const left = LEFT

  doc.font(sansFor(letter.customer.name)).fontSize(10.5).text(letter.customer.name, left, 130)
  if (letter.customer.contact) doc.font(sansFor(letter.customer.contact)).text(letter.customer.contact)
  doc.font('sans').text(letter.customer.country)
  doc.fillColor(SOFT).fontSize(9.5)
  const facts = [
    [words.notice, letter.number],
    [words.date, day(letter.date)],
    [words.account, letter.customer.number],
  ]
  facts.forEach(([label, value], i) => {
    doc.text(label!, right - 190, 130 + i * 14, { width: 80 })
    doc
      .fillColor(INK)
      .text(value!, right - 110, 130 + i * 14, { width: 110, align: 'right' })
      .fillColor(SOFT)
  })
  doc
    .fillColor(INK)
    .font(serifFor(letter.text.subject))
    .fontSize(15)
    .text(letter.text.subject, left, 215, { width })
  doc
    .moveDown(0.6)
    .font(sansFor(letter.text.body))
    .fontSize(10.5)
    .text(letter.text.body, { width, lineGap: 2.5, paragraphGap: 5 })
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
  const pages = doc.bufferedPageRange()
  for (let i = 0; i < pages.count; i++) {
    doc.switchToPage(i)
    doc.page.margins.bottom = 0
    doc
      .font('sans')
      .fontSize(8.5)
      .fillColor(SOFT)
      .text(
        `${letter.company}   ${letter.number}   ${words.page} ${i + 1} / ${pages.count}`,
        left,
        doc.page.height - 44,
        { width, lineBreak: false },
      )
  }
  doc.end()
  return ended
}
