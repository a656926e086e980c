import { Liquid } from 'liquidjs'
import { toMajor } from '../../core/money'
import type { IsoDate } from '../../core/calendar'

// Sandboxed: no files, no own properties beyond those given, bounded work.
const engine = new Liquid({
  strictFilters: true,
  strictVariables: true,
  ownPropertyOnly: true,
  relativeReference: false,
  fs: {
    exists: async () => false,
    existsSync: () => false,
    readFile: async () => '',
    readFileSync: () => '',
    resolve: () => '',
  },
  renderLimit: 2000,
  parseLimit: 20_000,
  memoryLimit: 1_000_000,
})

export interface LetterValues {
  company: string
  customer: string
  contact: string
  number: string
  level: number
  total: string
  fee: string
  has_fee: boolean
  interest: string
  has_interest: boolean
  date: string
  deadline: string
  items: number
}
export interface LetterText {
  subject: string
  body: string
}

/** Fills a letter's text. Throws with what is wrong in the template. */
export async function fillText(text: LetterText, values: LetterValues): Promise<LetterText> {
  const subject = String(await engine.parseAndRender(text.subject, values))
    .replace(/\s+/g, ' ')
    .trim()
  return { subject, body: String(await engine.parseAndRender(text.body, values)).trim() }
}

export function formatMoney(amount: number, currency: string, language: string): string {
  return new Intl.NumberFormat(LOCALE[language] ?? language, {
    style: 'currency',
    currency,
    currencyDisplay: 'code',
  }).format(Number(toMajor(amount, currency)))
}

export function formatDate(date: IsoDate, language: string): string {
  const at = Date.parse(`${date}T00:00:00Z`)
  const format = (locale: string) =>
    new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' })
  if (language !== 'en') return format(LOCALE[language] ?? language).format(at)
  // The English of the screens: three letters for every month, the day first.
  const parts = new Map(
    format('en-US')
      .formatToParts(at)
      .map(p => [p.type, p.value]),
  )
  return `${parts.get('day')} ${parts.get('month')} ${parts.get('year')}`
}

const LOCALE: Record<string, string> = { en: 'en-GB', no: 'nb' }
