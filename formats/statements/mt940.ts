// The package brings no types.
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./mt940js.d.ts" />
import { Parser } from 'mt940js'
import { isCurrency, minorDigits } from '../../core/money'
import { StatementFault, type Statement } from './types'

/**
 * Tag 86 as the German banks fill it (common practice): sub-fields ?20 to ?29 and ?60 to ?63 are one text in
 * chunks of 27 signs, ?31 the account and ?32, ?33 the name of the other side. Within the text marks such as
 * EREF+ begin a part each.
 */
const TEXT = [...Array.from({ length: 10 }, (_, i) => String(20 + i)), '60', '61', '62', '63']
const MARK = /(?<![A-Z0-9])(EREF|KREF|MREF|CRED|DEBT|SVWZ|ABWA|ABWE|COAM|OAMT|PURP|IBAN|BIC)\+/
/** Stands where a chunk begins with a mark, which is then a mark though letters come before it. */
const CUT = '\n'

interface Told {
  text: string
  name: string
  iban: string
  endToEndId: string
}

/**
 * The sub-fields of tag 86; undefined when it is free text. Line ends within it are the file's, not the
 * text's.
 */
function subFields(details: string): Map<string, string> | undefined {
  const parts = details.replace(/\r?\n/g, '').split(/\?(\d{2})/)
  if (parts.length < 3) return undefined
  const fields = new Map<string, string>()
  for (let i = 1; i < parts.length; i += 2)
    fields.set(parts[i]!, (fields.get(parts[i]!) ?? '') + parts[i + 1]!)
  return fields
}

/** A text taken apart by its marks; what stands before the first one is the text itself. */
function byMarks(text: string): Map<string, string> {
  const [before, ...rest] = text.split(MARK)
  const marked = new Map([['', before!.trim()]])
  for (let i = 0; i < rest.length; i += 2) marked.set(rest[i]!, rest[i + 1]!.trim())
  return marked
}

const unlessNone = (id: string) => (/^NOTPROVIDED$/i.test(id) ? '' : id)

function toldBy(fields: Map<string, string>): Told {
  const joined = (tags: readonly string[]) => tags.map(tag => fields.get(tag) ?? '').join('')
  const chunks = TEXT.map(tag => fields.get(tag) ?? '')
  const marked = byMarks(chunks.map(c => (MARK.exec(c)?.index === 0 ? CUT + c : c)).join(''))
  return {
    text: marked.get('SVWZ') || marked.get('') || chunks.join('').trim(),
    name: (joined(['32', '33']).trim() || marked.get('ABWA')) ?? '',
    iban: (joined(['31']).trim() || marked.get('IBAN')) ?? '',
    endToEndId: unlessNone(marked.get('EREF') ?? ''),
  }
}

/** Tag 86 as the Dutch banks fill it (/NAME/…/REMI/…), or free text. */
function toldFreely(details: string, structured: Record<string, string> | undefined): Told {
  const named = (...tags: string[]) =>
    tags
      .map(k => structured?.[k] ?? '')
      .filter(Boolean)
      .join(' ')
      .trim()
  const flat = details.replace(/\s*\n\s*/g, ' ').trim()
  return {
    text: (named('REMI', 'USTD') || flat).trim(),
    name: named('NAME', 'BENM', 'ORDP').replace(/^\/?NAME\//, ''),
    iban: named('IBAN'),
    endToEndId: unlessNone(/(?:EREF\+|\/EREF\/)([^+/\s]+)/.exec(flat)?.[1] ?? ''),
  }
}

const DAY_MS = 86_400_000

/**
 * The day of booking: the tag tells month and day only, so it is the one nearest to the value date; none is
 * told when it is the value date.
 */
function entryDay(value: Date, entry: Date | undefined): Date {
  if (!entry || typeof entry.getTime !== 'function' || Number.isNaN(entry.getTime())) return value
  const year = value.getUTCFullYear()
  const nearest = [year - 1, year, year + 1]
    .map(y => new Date(Date.UTC(y, entry.getUTCMonth(), entry.getUTCDate())))
    .sort((a, b) => Math.abs(a.getTime() - value.getTime()) - Math.abs(b.getTime() - value.getTime()))[0]!
  return Math.abs(nearest.getTime() - value.getTime()) < 200 * DAY_MS ? nearest : value
}

/**
 * Reads SWIFT MT940 customer statements. Throws StatementFault; that opening and lines make the closing
 * balance is checked by the caller.
 */
export function readMt940(text: string): Statement[] {
  let parsed: ReturnType<Parser['parse']>
  try {
    parsed = new Parser().parse(text)
  } catch (error) {
    throw new StatementFault(
      `this MT940 file cannot be read: ${(error as Error).message}`,
      'file',
      'it may have been cut off or changed: fetch it again',
    )
  }
  if (!parsed.length) throw new StatementFault('the file holds no statement', 'file', 'choose another file')
  return parsed.map((s, n) => {
    if (!isCurrency(s.currency))
      throw new StatementFault(
        `"${s.currency}" is not a currency`,
        `statement ${n + 1}`,
        'tag 60F needs an ISO 4217 code',
      )
    const minor = (amount: number) => Math.round(amount * 10 ** minorDigits(s.currency))
    const day = (d: Date) => d.toISOString().slice(0, 10)
    return {
      format: 'MT940',
      id: [s.transactionReference, s.number?.statement, s.number?.sequence].filter(Boolean).join(' '),
      account: s.accountIdentification
        .split('/')
        .at(-1)!
        .replace(/\s?[A-Z]{3}$/, m => (isCurrency(m.trim()) ? '' : m)),
      currency: s.currency,
      from: day(s.openingBalanceDate),
      to: day(s.closingBalanceDate),
      opening: minor(s.openingBalance),
      closing: minor(s.closingBalance),
      lines: s.transactions.map(t => {
        const fields = subFields(t.details)
        const told = fields ? toldBy(fields) : toldFreely(t.details, t.structuredDetails)
        return {
          ...told,
          bookingDate: day(entryDay(t.date, t.entryDate)),
          valueDate: day(t.date),
          amount: minor(t.amount),
          reference: '',
          bankReference: t.bankReference || (t.reference === 'NONREF' ? '' : t.reference),
          code: t.transactionType,
          returnReason: '',
        }
      }),
    }
  })
}
