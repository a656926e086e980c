import type { House } from '../db/settings'
import { INK, LEFT, letterDocument, sansFor, serifFor, SOFT } from './paper'

/** Who a letter goes to, and from whom: what stands at the head and foot of each. */
export interface Addressed {
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
}

export type Paper = ReturnType<typeof letterDocument>

const MM = 72 / 25.4

/**
 * What the window of an envelope shows, from the left and top edges of the sheet. `left`: DIN 5008 form B,
 * 85 × 45 mm, 20 mm and 45 mm in (from memory); the usual envelopes of Ireland and Britain show it too.
 * `right`: the French way, the recipient at the right (from memory).
 */
export const WINDOWS = {
  left: { x: 20 * MM, y: 45 * MM, width: 85 * MM, height: 45 * MM },
  right: { x: 110 * MM, y: 45 * MM, width: 85 * MM, height: 45 * MM },
} as const

/** Countries whose envelopes have their window at the right. The sender's country counts: it buys them. */
const RIGHT_WINDOW = new Set(['FR', 'BE', 'LU', 'CH', 'ES', 'PT'])
export const windowOf = (country: string | undefined) =>
  WINDOWS[country !== undefined && RIGHT_WINDOW.has(country) ? 'right' : 'left']

/** Within the window: our address in small first, then the recipient. */
const SENDER_IN = 2 * MM
const RECIPIENT_IN = 7 * MM
/** Below the window, where the subject of a letter stands. */
const SUBJECT_TOP = 98.5 * MM

/** Our name and address in a line, above the recipient and at the foot. */
export function senderOf({ company, house }: Pick<Addressed, 'company' | 'house'>): string {
  const place = [house?.postcode, house?.city].filter(Boolean).join(' ')
  return [company, house?.street, place].filter(Boolean).join(' · ')
}

/** The recipient as the post wants it: the country by name, in capitals, when it is not ours (UPU, S42). */
function recipientOf({ customer, house }: Addressed, language: string): string[] {
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

/** Logo, sender, recipient, the facts at the right, the subject. What follows is drawn from `doc.y` on. */
export function drawHead(
  { doc, right, width }: Paper,
  letter: Addressed,
  language: string,
  facts: readonly (readonly [label: string, value: string])[],
  subject: string,
): void {
  const { house } = letter
  if (house?.logo)
    doc.image(Buffer.from(house.logo, 'base64'), right - 150, 44, { fit: [150, 44], align: 'right' })
  const window = windowOf(house?.country)
  const isLeft = window === WINDOWS.left
  // The text of the letter begins where a left window's does, so that both stand in one line.
  const x = isLeft ? LEFT : window.x + 3 * MM
  const room = { width: window.x + window.width - x, lineBreak: false, ellipsis: true }
  const top = window.y + RECIPIENT_IN
  const sender = senderOf(letter)
  doc
    .font(sansFor(sender))
    .fontSize(7)
    .fillColor(SOFT)
    .text(sender, x, window.y + SENDER_IN, room)
  doc.fillColor(INK).fontSize(10.5)
  recipientOf(letter, language).forEach((part, n) =>
    doc.font(sansFor(part)).text(part, x, top + n * 14, room),
  )
  doc.fillColor(SOFT).fontSize(9.5)
  const factsAt = isLeft ? right - 190 : LEFT
  facts.forEach(([label, value], i) => {
    doc.font(sansFor(label)).text(label, factsAt, top + i * 14, { width: 80 })
    doc
      .font(sansFor(value))
      .fillColor(INK)
      .text(value, factsAt + 80, top + i * 14, { width: 110, align: isLeft ? 'right' : 'left' })
      .fillColor(SOFT)
  })
  doc.fillColor(INK).font(serifFor(subject)).fontSize(15).text(subject, LEFT, SUBJECT_TOP, { width })
}

/** How to pay: account, bank and reference, as far as they are told. */
export function payingLines(
  { house, reference }: Addressed,
  words: { pay: string; reference: string },
): [label: string, value: string][] {
  if (!house?.iban) return []
  const groups = (text: string) => text.replace(/\s/g, '').replace(/(.{4})(?=.)/g, '$1 ')
  const bank = [house.bank, house.bic].filter(Boolean).join(', BIC ')
  const lines: [string, string][] = [[words.pay, `IBAN ${groups(house.iban)}`]]
  if (bank) lines.push(['', bank])
  if (reference) lines.push([words.reference, groups(reference)])
  return lines
}

/** On each of some pages who we are, and which page of which letter it is. */
export function drawFeet(
  { doc, width }: Paper,
  letter: Addressed,
  words: { tax: string; page: string },
  number: string,
  pages: { start: number; count: number },
): void {
  const { house } = letter
  for (let i = 0; i < pages.count; i++) {
    doc.switchToPage(pages.start + i)
    doc.page.margins.bottom = 0
    const foot = [
      senderOf(letter),
      house?.vatNumber ? `${words.tax} ${house.vatNumber}` : '',
      house?.phone ?? '',
      house?.email ?? '',
      `${number}, ${words.page} ${i + 1} / ${pages.count}`,
    ]
      .filter(Boolean)
      .join('   ')
    doc
      .font(sansFor(foot))
      .fontSize(8.5)
      .fillColor(SOFT)
      .text(foot, LEFT, doc.page.height - 44, { width, lineBreak: false })
  }
}
