import { addDays, isIsoDate, weekday, type IsoDate } from '../calendar'

/*
 * What a mail of a customer seems to say, and the values in it. It only ever proposes: a person confirms.
 */

/** What a mail seems to be. */
export const MAIL_KINDS = {
  promise: 'Promises to pay',
  dispute: 'Disputes',
  copy: 'Asks for a copy',
  absent: 'Out of office',
  bounce: 'Came back',
  person: 'Wrong person',
  other: 'Other',
} as const
export type MailKind = keyof typeof MAIL_KINDS

export interface MailText {
  subject: string
  /** Plain text, whatever it was sent as. */
  text: string
  /** It says of itself that no person wrote it (RFC 3834). */
  isAutomatic: boolean
  /** The status of a report of delivery (RFC 3464), such as 5.1.1; null when it is none. */
  status: string | null
}

export interface MailValues {
  /** When it will be paid, or from when somebody is back. */
  date: IsoDate | null
  /** Minor units of a currency of two digits; null when none is named. */
  amount: number | null
  /** Numbers that documents could have. */
  numbers: string[]
  /** Whom to write to instead. */
  address: string | null
  /** Why, of a dispute: a reason of `core/disputes`. */
  reason: string | null
}

const MONTHS: Record<string, number> = {}
const MONTH_NAMES = [
  ['jan', 'januar', 'january', 'janvier', 'gennaio', 'enero'],
  ['feb', 'februar', 'february', 'février', 'febbraio', 'febrero'],
  ['mar', 'märz', 'march', 'mars', 'marzo'],
  ['apr', 'april', 'avril', 'aprile', 'abril'],
  ['may', 'mai', 'maggio', 'mayo'],
  ['jun', 'juni', 'june', 'juin', 'giugno', 'junio'],
  ['jul', 'juli', 'july', 'juillet', 'luglio', 'julio'],
  ['aug', 'august', 'août', 'agosto'],
  ['sep', 'sept', 'september', 'septembre', 'settembre', 'septiembre'],
  ['oct', 'okt', 'october', 'oktober', 'octobre', 'ottobre', 'octubre'],
  ['nov', 'november', 'novembre', 'noviembre'],
  ['dec', 'dez', 'des', 'december', 'dezember', 'desember', 'décembre', 'dicembre', 'diciembre'],
]
MONTH_NAMES.forEach((names, n) => names.forEach(name => (MONTHS[name] = n + 1)))
const WEEKDAYS: Record<string, number> = {
  sunday: 0,
  monday: 1,
  tuesday: 2,
  wednesday: 3,
  thursday: 4,
  friday: 5,
  saturday: 6,
  montag: 1,
  dienstag: 2,
  mittwoch: 3,
  donnerstag: 4,
  freitag: 5,
  lundi: 1,
  mardi: 2,
  mercredi: 3,
  jeudi: 4,
  vendredi: 5,
}

const two = (n: number) => String(n).padStart(2, '0')

/** A day without its year is the next one of that name; a day that does not exist is none. */
function dayOf(day: number, month: number, year: number | null, today: IsoDate): IsoDate | null {
  const thisYear = Number(today.slice(0, 4))
  const full = year === null ? thisYear : year < 100 ? 2000 + year : year
  const date = `${full}-${two(month)}-${two(day)}`
  if (!isIsoDate(date)) return null
  // Named without a year and long over: the next one is meant.
  if (year === null && date < addDays(today, -60)) return dayOf(day, month, thisYear + 1, today)
  return date
}

/** The first day that a text names, as people write days: 20 Nov, 20.11., 2026-11-20, next Friday. */
export function dateIn(text: string, today: IsoDate): IsoDate | null {
  const found: { at: number; date: IsoDate }[] = []
  const keep = (at: number, date: IsoDate | null) => {
    if (date !== null) found.push({ at, date })
  }
  for (const m of text.matchAll(/\b(\d{4})-(\d\d)-(\d\d)\b/g)) keep(m.index, isIsoDate(m[0]) ? m[0] : null)
  for (const m of text.matchAll(
    /(?<![\d/.-])(\d{1,2})(?:\.(\d{1,2})\.|\/(\d{1,2})\/?)(\d{4}|\d{2})?(?![\d/])/g,
  ))
    keep(m.index, dayOf(Number(m[1]), Number(m[2] ?? m[3]), m[4] ? Number(m[4]) : null, today))
  for (const m of text.matchAll(
    /(?<![\d-])(\d{1,2})(?:st|nd|rd|th|\.|er)?\s+(?:de\s+|of\s+)?(\p{L}{3,10})\.?(?:\s+(?:de\s+)?(\d{4}))?/giu,
  )) {
    const month = MONTHS[m[2]!.toLowerCase()]
    if (month) keep(m.index, dayOf(Number(m[1]), month, m[3] ? Number(m[3]) : null, today))
  }
  for (const m of text.matchAll(/\b(next |this |nächsten |kommenden )?(\p{L}{5,10})\b/giu)) {
    const day = WEEKDAYS[m[2]!.toLowerCase()]
    if (day === undefined) continue
    const ahead = (day - weekday(today) + 7) % 7 || 7
    keep(m.index, addDays(today, ahead))
  }
  found.sort((a, b) => a.at - b.at)
  return found.find(f => f.date >= today)?.date ?? found[0]?.date ?? null
}

const SIGN = '€|\\$|£|EUR|USD|GBP|NOK'
const GROUPED = "\\d{1,3}(?:[.,'\\s]\\d{3})*"
const CENTS = '[.,]\\d{2}'
/** Beside a sign of currency, before or behind it, or with groups and cents of its own. */
const AMOUNT = new RegExp(
  [
    `(?:${SIGN})\\s*(${GROUPED}(?:${CENTS})?|\\d+(?:${CENTS})?)`,
    `(${GROUPED}${CENTS}|\\d+${CENTS})(?=\\s*(?:${SIGN}|euros?\\b))`,
    `(\\d{1,3}(?:[.,' ]\\d{3})+${CENTS})(?!\\d)`,
  ].join('|'),
  'iu',
)
/** Yen have no cents: `JPY 1,105,200`, `¥1,105,200`, `1,105,200円`. */
const YEN = /(?:JPY|¥|￥)\s*(\d{1,3}(?:,\d{3})+|\d+)(?![\d.,]*\d)|(\d{1,3}(?:,\d{3})+|\d+)\s*円/iu

/** The first amount with two decimals, or one beside a sign of currency, in minor units. */
export function amountIn(text: string): number | null {
  const yen = YEN.exec(text)
  const found = AMOUNT.exec(text)
  const isYen = yen !== null && (found === null || yen.index < found.index)
  const written = isYen ? (yen[1] ?? yen[2]) : (found?.[1] ?? found?.[2] ?? found?.[3])
  if (!written) return null
  const isWhole = isYen || /[.,]\d{2}$/.test(written)
  const amount = Number(written.replace(/\D/g, '')) * (isWhole ? 1 : 100)
  return Number.isSafeInteger(amount) && amount > 0 ? amount : null
}

const ADDRESS = /[\w.+-]+@[\w-]+(?:\.[\w-]+)+/g
/** Words with a digit that a document could be numbered by; days and amounts are none. */
const NUMBER = /(?<![\w@.,-])(?=[\w/-]*\d)[A-Za-z]{0,4}[-/]?\d[\d/-]{2,14}(?![\w@]|[.,]\d)/g

function numbersIn(text: string): string[] {
  const found = [...text.matchAll(NUMBER)].map(m => m[0].replace(/[-/]+$/, ''))
  return [...new Set(found)].filter(n => !/^\d{4}-\d\d-\d\d$/.test(n)).slice(0, 20)
}

/** What people quote of our letter is not what they say. */
export function withoutQuotes(text: string): string {
  const lines = text.split(/\r?\n/)
  const at = lines.findIndex(l =>
    /^(>|-{2,} ?original|_{5,}|on .{5,80} wrote:|am .{5,80} schrieb|le .{5,80} a écrit)/i.test(l.trim()),
  )
  return (at < 0 ? lines : lines.slice(0, at))
    .filter(l => !l.trim().startsWith('>'))
    .join('\n')
    .trim()
}

const SAYS: [MailKind, RegExp][] = [
  [
    'absent',
    /out of (the )?office|abwesen|nicht im (büro|haus)|absent du bureau|fuori ufficio|fuera de la oficina|ikke på kontoret/iu,
  ],
  [
    'person',
    /no longer (works|with|responsible|in charge)|not (the )?(right|responsible) (person|contact)|wrong (person|address)|nicht (mehr )?zuständig|plus responsable|please (write|contact|send).{0,30} instead|falsche(r|n)? (adresse|ansprechpartner)/iu,
  ],
  [
    'copy',
    /(?<!\p{L})(cop(y|ies) of|send (me|us) (a copy|the invoice|it) again|never (got|received|saw) (the|this|your) invoice|cannot find (the|this|your) invoice|kopie|copia|facture manquante|duplicat|kopi av)/iu,
  ],
  [
    'dispute',
    /(?<!\p{L})(price|quantity|amount|invoice|bill|discount)\b.{0,40}\b(is|are|was|were|looks?|seems?)( all| completely)? (wrong|incorrect|too (high|much)|not (right|correct|what|as agreed))|stimmt nicht|(n’est|n'est) pas (correct|juste|exact)/iu,
  ],
  [
    'dispute',
    /(?<!\p{L})(dispute|damaged|wet|broken|wrong (price|quantity)|overcharged|short(age| delivered| by)?|not (delivered|arrived|ordered)|missing|reklam|beschädigt|falsche(r)? preis|mangel|endommag|réclamation|prix (faux|incorrect)|reclamo|danneggiat)/iu,
  ],
  [
    'promise',
    /(?<!\p{L})(will (pay|be paid|transfer|settle)|shall pay|payment (will|is (planned|scheduled|due)|goes out)|we pay|transfer(red)? (on|by)|überweis|zahlen (wir|am|bis)|wird .{0,20}bezahlt|paierons|règlement|virement|pagheremo|pagaremos|betaler)/iu,
  ],
]

const REASONS: [string, RegExp][] = [
  ['price', /price|preis|prix|prezzo|precio|overcharged/i],
  ['quantity', /short|quantity|menge|fehlmenge|missing|quantité/i],
  ['not-delivered', /not (delivered|arrived)|nicht geliefert|pas livr/i],
  ['late-delivery', /late|zu spät|retard/i],
  ['not-ordered', /not ordered|nicht bestellt|pas command/i],
  ['duplicate', /twice|doppelt|deux fois|duplicate/i],
  ['freight', /freight|fracht|transport/i],
  ['quality', /wet|damaged|broken|quality|beschädigt|mangel|qualit|endommag|danneggiat/i],
]

/** What a mail seems to be, and the values that an action on it begins with. */
export function readMail(mail: MailText, today: IsoDate): { kind: MailKind; values: MailValues } {
  const own = withoutQuotes(mail.text)
  const all = `${mail.subject}\n${own}`
  const kind = kindOf(mail, all)
  const address = kind === 'person' || kind === 'bounce' ? ([...own.matchAll(ADDRESS)][0]?.[0] ?? null) : null
  return {
    kind,
    values: {
      date: kind === 'promise' || kind === 'absent' ? dateIn(own, today) : null,
      amount: kind === 'promise' || kind === 'dispute' ? amountIn(own) : null,
      numbers: numbersIn(all),
      address,
      reason: kind === 'dispute' ? (REASONS.find(([, says]) => says.test(own))?.[0] ?? 'other') : null,
    },
  }
}

function kindOf({ isAutomatic, status }: MailText, all: string): MailKind {
  // A report of delivery that says "delivered" or "delayed" came to no end: only 5 is for good (RFC 3463).
  if (status !== null) return status.startsWith('5') ? 'bounce' : 'other'
  const found = SAYS.find(([, says]) => says.test(all))?.[0]
  if (isAutomatic) return found === 'person' ? 'person' : 'absent'
  return found ?? 'other'
}
