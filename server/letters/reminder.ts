import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import PDFDocument from 'pdfkit'
import type { Notice } from '../../core/reminders'
import { formatDate, formatMoney, type LetterText } from './text'

export interface ReminderLetter {
  company: string
  customer: { name: string, number: string, contact: string, country: string }
  language: string
  number: string
  date: string
  text: LetterText
  notice: Notice
  /** Balance by age in the notice's currency, fresh to old. */
  strata: number[]
  bucketLabels: string[]
}

const require = createRequire(join(process.cwd(), 'package.json'))
const font = (file: string) => readFileSync(require.resolve(`@fontsource/${file}`))
const FONTS = {
  serif: font('newsreader/files/newsreader-latin-ext-500-normal.woff'), serifLatin: font('newsreader/files/newsreader-latin-500-normal.woff'),
  sans: font('public-sans/files/public-sans-latin-400-normal.woff'), bold: font('public-sans/files/public-sans-latin-600-normal.woff'),
  sansExt: font('public-sans/files/public-sans-latin-ext-400-normal.woff'),
}
// Palette: the light tones of the design tokens.
const INK = '#1b2430'
const SOFT = '#4d5765'
const RULE = '#cbbfa6'
const AGES = ['#cfe0d8', '#e5cf95', '#d3a15f', '#b06a42', '#7c3f37', '#3d2b33']

const WORDS: Record<string, Record<'notice' | 'invoice' | 'date' | 'due' | 'late' | 'open' | 'fee' | 'total' | 'page' | 'account', string>> = {
  en: { notice: 'Notice', invoice: 'Document', date: 'Date', due: 'Due', late: 'Days late', open: 'Open', fee: 'Reminder fee', total: 'Total to pay', page: 'Page', account: 'Account' },
  de: { notice: 'Mahnung', invoice: 'Beleg', date: 'Datum', due: 'Fällig', late: 'Tage überfällig', open: 'Offen', fee: 'Mahngebühr', total: 'Zu zahlen', page: 'Seite', account: 'Konto' },
  fr: { notice: 'Relance', invoice: 'Document', date: 'Date', due: 'Échéance', late: 'Jours de retard', open: 'Solde', fee: 'Frais de relance', total: 'Total à payer', page: 'Page', account: 'Compte' },
}

/** The reminder as a PDF on A4: text, the items with days late, fee, total. */
export function reminderPdf(letter: ReminderLetter): Promise<Buffer> {
  const { notice, language } = letter
  const words = WORDS[language] ?? WORDS.en!
  const money = (amount: number) => formatMoney(amount, notice.currency, WORDS[language] ? language : 'en')
  const day = (date: string) => formatDate(date, WORDS[language] ? language : 'en')
  const doc = new PDFDocument({ size: 'A4', margins: { top: 60, bottom: 70, left: 64, right: 64 }, bufferPages: true, info: { Title: `${words.notice} ${letter.number}`, Author: letter.company } })
  const chunks: Buffer[] = []
  doc.on('data', (chunk: Buffer) => chunks.push(chunk))
  const ended = new Promise<Buffer>((resolve, reject) => {
    doc.on('end', () => resolve(Buffer.concat(chunks)))
    doc.on('error', reject)
  })
  for (const [name, file] of Object.entries(FONTS)) doc.registerFont(name, file)
  // Names may need letters that the plain Latin file lacks.
  const sansFor = (text: string) => (/[^\u0000-\u00ff\u2010-\u203a\u20ac\u2212]/.test(text) ? 'sansExt' : 'sans')
  const serifFor = (text: string) => (/[^\u0000-\u00ff\u2010-\u203a]/.test(text) ? 'serif' : 'serifLatin')
  const left = 64
  const right = doc.page.width - 64
  const width = right - left

  AGES.filter((_, i) => i % 2 === 1).forEach((tone, i) => doc.rect(left, 60 + i * 5, 15, 3.4).fill(tone))
  doc.fillColor(INK).font(serifFor(letter.company)).fontSize(19).text(letter.company, left + 24, 55)
  doc.font(sansFor(letter.customer.name)).fontSize(10.5).text(letter.customer.name, left, 130)
  if (letter.customer.contact) doc.font(sansFor(letter.customer.contact)).text(letter.customer.contact)
  doc.font('sans').text(letter.customer.country)
  doc.fillColor(SOFT).fontSize(9.5)
  const facts = [[words.notice, letter.number], [words.date, day(letter.date)], [words.account, letter.customer.number]]
  facts.forEach(([label, value], i) => {
    doc.text(label!, right - 190, 130 + i * 14, { width: 80 })
    doc.fillColor(INK).text(value!, right - 110, 130 + i * 14, { width: 110, align: 'right' }).fillColor(SOFT)
  })
  doc.fillColor(INK).font(serifFor(letter.text.subject)).fontSize(15).text(letter.text.subject, left, 215, { width })
  doc.moveDown(0.6).font(sansFor(letter.text.body)).fontSize(10.5).text(letter.text.body, { width, lineGap: 2.5, paragraphGap: 5 })
  doc.moveDown(1)

  const columns = [{ at: 0, w: 150, align: 'left' }, { at: 150, w: 95, align: 'left' }, { at: 245, w: 90, align: 'right' }, { at: 335, w: width - 335, align: 'right' }] as const
  let y = doc.y
  const row = (cells: string[], style: 'sans' | 'bold', tone: string) => {
    if (y > doc.page.height - 110) { doc.addPage(); y = 60 }
    cells.forEach((cell, i) => doc.font(style === 'sans' ? sansFor(cell) : 'bold').fontSize(9.5).fillColor(tone).text(cell, left + columns[i]!.at, y, { width: columns[i]!.w, align: columns[i]!.align, lineBreak: false }))
    y += 17
    doc.moveTo(left, y - 4).lineTo(right, y - 4).lineWidth(0.5).strokeColor(RULE).stroke()
  }
  row([words.invoice, words.due, words.late, words.open], 'sans', SOFT)
  for (const item of notice.items) row([item.part > 1 ? `${item.number} (${item.part})` : item.number, day(item.dueDate), String(item.daysLate), money(item.open)], 'sans', INK)
  if (notice.fee) row([words.fee, day(letter.date), '', money(notice.fee)], 'sans', INK)
  row([words.total, day(notice.deadline), '', money(notice.total + notice.fee)], 'bold', INK)

  const sum = letter.strata.reduce((a, b) => a + b, 0)
  if (sum > 0 && y < doc.page.height - 130) {
    y += 12
    let x = left
    letter.strata.forEach((part, i) => {
      const w = width * part / sum
      doc.rect(x, y, w, 9).fill(AGES[i]!)
      x += w
    })
    doc.font('sans').fontSize(8.5).fillColor(SOFT).text(letter.strata.map((part, i) => (part ? `${letter.bucketLabels[i]} ${money(part)}` : '')).filter(Boolean).join('   '), left, y + 13, { width })
  }
  const pages = doc.bufferedPageRange()
  for (let i = 0; i < pages.count; i++) {
    doc.switchToPage(i)
    doc.page.margins.bottom = 0
    doc.font('sans').fontSize(8.5).fillColor(SOFT).text(`${letter.company}   ${letter.number}   ${words.page} ${i + 1} / ${pages.count}`, left, doc.page.height - 44, { width, lineBreak: false })
  }
  doc.end()
  return ended
}
