// The package brings no types.
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./mt940js.d.ts" />
import { Parser } from 'mt940js'
import { isCurrency, minorDigits } from '../../core/money'
import { StatementFault, type Statement } from './types'

// Subfields of tag 86 as the German and Dutch bank conventions use them (common practice): text 20–29 and
// 60–63, account 31, name 32–33.
const TEXT = [...Array.from({ length: 10 }, (_, i) => String(20 + i)), '60', '61', '62', '63']

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
        const sub = t.structuredDetails ?? {}
        const named = (...tags: string[]) =>
          tags
            .map(k => sub[k] ?? '')
            .filter(Boolean)
            .join(' ')
            .trim()
        const free = named(...TEXT) || named('REMI', 'USTD') || (t.structuredDetails ? '' : t.details)
        const tagged = /(?:EREF\+|\/EREF\/)([^+/\s]+)/.exec(t.details)?.[1] ?? ''
        return {
          bookingDate: day(t.entryDate ?? t.date),
          valueDate: day(t.date),
          amount: minor(t.amount),
          name: named('32', '33') || named('NAME', 'BENM', 'ORDP').replace(/^\/?NAME\//, ''),
          iban: named('31', 'IBAN'),
          text: (free || t.details).replace(/\s*\n\s*/g, ' ').trim(),
          reference: named('CSID') && '',
          endToEndId: tagged === 'NOTPROVIDED' ? '' : tagged,
          bankReference: t.bankReference || (t.reference === 'NONREF' ? '' : t.reference),
          code: t.transactionType,
          returnReason: '',
        }
      }),
    }
  })
}
