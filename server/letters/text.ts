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

/** Formatters are costly to make and the same for every letter. */
function remembered<T>(make: (locale: string, what: string) => T): (locale: string, what: string) => T {
  const made = new Map<string, T>()
  return (locale, what) => {
    const key = `${locale} ${what}`
    const known = made.get(key) ?? make(locale, what)
    made.set(key, known)
    return known
  }
}

const moneyFormat = remembered(
  (locale, currency) =>
    new Intl.NumberFormat(locale, { style: 'currency', currency, currencyDisplay: 'code' }),
)
const dayFormat = remembered(
  locale =>
    new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' }),
)
const percentFormat = remembered(locale => new Intl.NumberFormat(locale, { maximumFractionDigits: 4 }))

const LOCALE: Record<string, string> = { en: 'en-GB', no: 'nb' }
const localeOf = (language: string): string => LOCALE[language] ?? language

export const formatMoney = (amount: number, currency: string, language: string): string =>
  moneyFormat(localeOf(language), currency).format(Number(toMajor(amount, currency)))

/** A percentage as a decimal text, in the way of a language. */
export const formatPercent = (percent: string, language: string): string =>
  `${percentFormat(localeOf(language), 'percent').format(Number(percent))} %`

export function formatDate(date: IsoDate, language: string): string {
  const at = Date.parse(`${date}T00:00:00Z`)
  if (language !== 'en') return dayFormat(localeOf(language), 'day').format(at)
  // The English of the screens: three letters for every month, the day first.
  const parts = new Map(
    dayFormat('en-US', 'day')
      .formatToParts(at)
      .map(p => [p.type, p.value]),
  )
  return `${parts.get('day')} ${parts.get('month')} ${parts.get('year')}`
}
