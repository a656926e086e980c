import type { Notice } from '../../core/reminders'
import type { House } from '../db/settings'
import { AGES, INK, LEFT, letterDocument, sansFor, serifFor, SOFT, type PaperColumn } from './paper'
import { formatDate, formatMoney, type LetterText } from './text'

export interface ReminderLetter {
  company: string
  /** Letters of before addresses were kept have none. */
  house?: House
  customer: {
    name: string
    number: string
    contact: string
    street?: string
    postcode?: string
    city?: string
    country: string
  }
  /** Creditor reference for the payment, ISO 11649; empty for none. */
  reference?: string
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

/** Where a window of an envelope shows the address: 45 mm from the top (DIN 5008, form A, from memory). */
const ADDRESS_TOP = 140

/** Our name and address in a line, above the recipient and at the foot. */
function senderOf({ company, house }: ReminderLetter): string {
  const place = [house?.postcode, house?.city].filter(Boolean).join(' ')
  return [company, house?.street, place].filter(Boolean).join(' · ')
}

/** The recipient as the post wants it: the country by name, in capitals, when it is not ours (UPU, S42). */
function recipientOf({ customer, house }: ReminderLetter, language: string): string[] {
  const abroad = customer.country !== house?.country
  const country = new Intl.DisplayNames([language], { type: 'region' }).of(customer.country)
  return [
    customer.name,
    customer.contact,
    customer.street ?? '',
    [customer.postcode, customer.city].filter(Boolean).join(' '),
    abroad ? (country ?? customer.country).toUpperCase() : '',
  ].filter(Boolean)
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

/** How to pay: account, bank and reference, as far as they are told. */
function payingLines({ house, reference }: ReminderLetter, words: (typeof WORDS)[string]): string[][] {
  if (!house?.iban) return []
  const groups = (text: string) => text.replace(/\s/g, '').replace(/(.{4})(?=.)/g, '$1 ')
  return [
    [words.pay, `IBAN ${groups(house.iban)}`],
    ...(house.bic || house.bank ? [['', [house.bank, house.bic].filter(Boolean).join(', BIC ')]] : []),
    ...(reference ? [[words.reference, groups(reference)]] : []),
  ]
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
  const { before, closing } = partsOf(letter.text.body)

  const { house } = letter
  if (house?.logo)
    doc.image(Buffer.from(house.logo, 'base64'), right - 150, 44, { fit: [150, 44], align: 'right' })
  const sender = senderOf(letter)
  doc
    .font(sansFor(sender))
    .fontSize(7.5)
    .fillColor(SOFT)
    .text(sender, left, ADDRESS_TOP - 14, { width: 250 })
  doc.fillColor(INK).fontSize(10.5)
  recipientOf(letter, language).forEach((part, n) =>
    doc.font(sansFor(part)).text(part, left, ADDRESS_TOP + n * 14, { width: 250, lineBreak: false }),
  )
  doc.fillColor(SOFT).fontSize(9.5)
  const facts = [
    [words.notice, letter.number],
    [words.date, day(letter.date)],
    [words.account, letter.customer.number],
  ]
  facts.forEach(([label, value], i) => {
    doc.text(label!, right - 190, ADDRESS_TOP + i * 14, { width: 80 })
    doc
      .fillColor(INK)
      .text(value!, right - 110, ADDRESS_TOP + i * 14, { width: 110, align: 'right' })
      .fillColor(SOFT)
  })
  doc
    .fillColor(INK)
    .font(serifFor(letter.text.subject))
    .fontSize(15)
    .text(letter.text.subject, left, 235, { width })
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
  const pages = doc.bufferedPageRange()
  for (let i = 0; i < pages.count; i++) {
    doc.switchToPage(i)
    doc.page.margins.bottom = 0
    doc
      .font('sans')
      .fontSize(8.5)
      .fillColor(SOFT)
      .text(
        [
          senderOf(letter),
          house?.vatNumber ? `${words.tax} ${house.vatNumber}` : '',
          house?.phone ?? '',
          house?.email ?? '',
          `${letter.number}, ${words.page} ${i + 1} / ${pages.count}`,
        ]
          .filter(Boolean)
          .join('   '),
        left,
        doc.page.height - 44,
        { width, lineBreak: false },
      )
  }
  doc.end()
  return ended
}
