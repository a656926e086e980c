import { parseSync } from 'ofx-js'
import { isIsoDate } from '../../core/calendar'
import { isCurrency, parseAmount } from '../../core/money'
import { StatementFault, type Statement } from './types'

type Node = Record<string, unknown>
const list = (value: unknown): Node[] =>
  value === undefined || value === null || value === ''
    ? []
    : Array.isArray(value)
      ? (value as Node[])
      : [value as Node]
const text = (value: unknown): string =>
  typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : ''

/**
 * Reads OFX 1 (SGML) and 2 (XML) bank statements. OFX tells only the closing balance; the opening one is what
 * the lines leave. Throws StatementFault.
 */
export function readOfx(source: string): Statement[] {
  if (/<!DOCTYPE|<!ENTITY/i.test(source))
    throw new StatementFault(
      'the file declares a document type or entities, which a bank file never needs',
      'file',
      'ask the bank for a plain file',
    )
  if (!/<\/OFX>\s*$/i.test(source.trim()))
    throw new StatementFault('the file ends before </OFX>', 'file', 'it was cut off: fetch it again')
  let root: Node
  try {
    root = (parseSync(source) as unknown as { OFX: Node }).OFX
  } catch (error) {
    throw new StatementFault(
      `this OFX file cannot be read: ${(error as Error).message}`,
      'file',
      'it may have been cut off: fetch it again',
    )
  }
  const answers = list((root?.BANKMSGSRSV1 as Node | undefined)?.STMTTRNRS).flatMap(t => list(t.STMTRS))
  if (!answers.length)
    throw new StatementFault(
      'the file holds no bank statement',
      'BANKMSGSRSV1',
      'choose a bank account statement',
    )
  return answers.map((s, n) => {
    const currency = text(s.CURDEF)
    if (!isCurrency(currency))
      throw new StatementFault(
        'the statement does not tell its currency',
        `STMTRS ${n + 1}.CURDEF`,
        'it needs an ISO 4217 code such as EUR',
      )
    const money = (value: unknown, path: string) => {
      try {
        return parseAmount(text(value).replace(/^\+/, '').replace(',', '.'), currency)
      } catch (error) {
        throw new StatementFault((error as Error).message, path, 'ask the bank for the file again')
      }
    }
    const day = (value: unknown, path: string) => {
      const date = text(value).replace(/^(\d{4})(\d{2})(\d{2}).*$/, '$1-$2-$3')
      if (!isIsoDate(date))
        throw new StatementFault(`"${text(value)}" is not a date`, path, 'OFX dates begin with YYYYMMDD')
      return date
    }
    const tran = s.BANKTRANLIST as Node | undefined
    const lines = list(tran?.STMTTRN).map((t, i) => {
      const path = `STMTTRN ${i + 1}`
      const payee = t.PAYEE as Node | undefined
      const bookingDate = day(t.DTPOSTED, path)
      return {
        bookingDate,
        valueDate: t.DTUSER ? day(t.DTUSER, path) : bookingDate,
        amount: money(t.TRNAMT, path),
        name: text(t.NAME) || text(payee?.NAME),
        iban: text((t.BANKACCTTO as Node | undefined)?.ACCTID),
        text: text(t.MEMO),
        reference: text(t.REFNUM),
        endToEndId: text(t.CHECKNUM),
        bankReference: text(t.FITID),
        code: text(t.TRNTYPE),
        returnReason: '',
      }
    })
    const balance = s.LEDGERBAL as Node | undefined
    const closing = balance ? money(balance.BALAMT, 'LEDGERBAL') : null
    const account = s.BANKACCTFROM as Node | undefined
    const dates = lines.map(l => l.bookingDate).sort()
    return {
      format: 'OFX',
      id: `${text(account?.ACCTID)} ${text(tran?.DTSTART).slice(0, 8)}-${text(tran?.DTEND).slice(0, 8)}`,
      account: text(account?.ACCTID),
      currency,
      from: tran?.DTSTART ? day(tran.DTSTART, 'DTSTART') : (dates[0] ?? ''),
      to: balance?.DTASOF ? day(balance.DTASOF, 'LEDGERBAL') : (dates.at(-1) ?? ''),
      opening: closing === null ? null : closing - lines.reduce((a, l) => a + l.amount, 0),
      closing,
      lines,
    }
  })
}
