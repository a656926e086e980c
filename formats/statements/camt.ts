import { XMLBuilder } from 'fast-xml-parser'
import { isIsoDate, type IsoDate } from '../../core/calendar'
import { isCurrency, parseAmount, toMajor } from '../../core/money'
import {
  StatementFault,
  type LineDetails,
  type RemittedDocument,
  type Statement,
  type StatementLine,
  type ToldAmount,
} from './types'
import { all, at, readXml, textAt, type XmlNode } from './xml'

/**
 * The messages of ISO 20022 that tell of booked entries: the statement, the day's report, the notification.
 */
const MESSAGES = [
  { format: 'camt.053', root: 'BkToCstmrStmt', part: 'Stmt' },
  { format: 'camt.052', root: 'BkToCstmrAcctRpt', part: 'Rpt' },
  { format: 'camt.054', root: 'BkToCstmrDbtCdtNtfctn', part: 'Ntfctn' },
] as const

/**
 * Reads what a bank tells its customer: ISO 20022 camt.053, and camt.052 and camt.054 before it, versions 02
 * to 08. Only booked entries count. A report within the day and a notification prove no balance, so theirs
 * are left out. Throws StatementFault.
 */
export function readCamt(text: string): Statement[] {
  const document = at(readXml(text), 'Document')
  const kind = MESSAGES.find(m => at(document, m.root))
  if (!kind) {
    const other = document && Object.keys(document).find(k => !k.startsWith('@'))
    throw new StatementFault(
      other ? `this XML holds a ${other}, not a bank statement` : 'this XML holds no ISO 20022 document',
      'Document',
      'choose a camt.053 file (BkToCstmrStmt), or one of camt.052 or camt.054',
    )
  }
  const statements = all(at(document, kind.root)!, kind.part)
  if (!statements.length)
    throw new StatementFault('the file holds no statement', kind.part, 'choose the file of the day you want')
  return statements.map((s, i) => readStatement(s, `${kind.part} ${i + 1}`, kind.format))
}

function readStatement(s: XmlNode, path: string, format: Statement['format']): Statement {
  const proves = format === 'camt.053'
  const balance = (...codes: string[]) =>
    all(s, 'Bal').find(b => codes.includes(textAt(b, 'Tp.CdOrPrtry.Cd')))
  const opening = balance('OPBD') ?? balance('PRCD')
  const closing = balance('CLBD')
  const currency =
    textAt(s, 'Acct.Ccy') ||
    textAt(at(closing ?? opening, 'Amt'), '@Ccy') ||
    String(at(closing ?? opening, 'Amt')?.['@Ccy'] ?? '')
  if (!isCurrency(currency))
    throw new StatementFault(
      'the statement does not tell its currency',
      `${path}.Acct.Ccy`,
      'it needs an ISO 4217 code such as EUR',
    )
  const signed = (node: XmlNode, where: string): number => {
    const amount = at(node, 'Amt')
    const given = String(amount?.['@Ccy'] ?? currency)
    if (given !== currency)
      throw new StatementFault(
        `an amount is in ${given}, the account in ${currency}`,
        where,
        'entries are in the currency of the account',
      )
    return money(textAt(amount, ''), currency, where) * (textAt(node, 'CdtDbtInd') === 'DBIT' ? -1 : 1)
  }
  const lines = all(s, 'Ntry').flatMap((entry, i) => {
    const status = textAt(entry, 'Sts.Cd') || textAt(entry, 'Sts')
    return status && status !== 'BOOK' ? [] : readEntry(entry, currency, `${path}.Ntry ${i + 1}`, signed)
  })
  const dates = lines.map(l => l.bookingDate).sort()
  const closingDate = closing && dateIn(closing, 'Dt', `${path}.Bal`)
  return {
    format,
    id: textAt(s, 'ElctrncSeqNb') ? `${textAt(s, 'Id')} ${textAt(s, 'ElctrncSeqNb')}` : textAt(s, 'Id'),
    account: textAt(s, 'Acct.Id.IBAN') || textAt(s, 'Acct.Id.Othr.Id'),
    currency,
    from: dayIn(s, 'FrToDt.FrDtTm', path) || dates[0] || closingDate || '',
    to: closingDate || dayIn(s, 'FrToDt.ToDtTm', path) || dates.at(-1) || '',
    opening: proves && opening ? signed(opening, `${path}.Bal`) : null,
    closing: proves && closing ? signed(closing, `${path}.Bal`) : null,
    lines,
  }
}

function readEntry(
  entry: XmlNode,
  currency: string,
  path: string,
  signed: (node: XmlNode, where: string) => number,
): StatementLine[] {
  const amount = signed(entry, path)
  const bookingDate = dateIn(entry, 'BookgDt', path) || dateIn(entry, 'ValDt', path)
  if (!bookingDate) throw new StatementFault('an entry has no booking date', path, 'it needs BookgDt')
  const own = {
    bookingDate,
    valueDate: dateIn(entry, 'ValDt', path) || bookingDate,
    bankReference: textAt(entry, 'AcctSvcrRef'),
    code:
      ['Domn.Cd', 'Domn.Fmly.Cd', 'Domn.Fmly.SubFmlyCd']
        .map(p => textAt(entry, `BkTxCd.${p}`))
        .filter(Boolean)
        .join('-') || textAt(entry, 'BkTxCd.Prtry.Cd'),
  }
  const details = all(entry, 'NtryDtls').flatMap(d => all(d, 'TxDtls'))
  const charged = chargesIn(entry)
  const parts = details.map(d => readDetails(d, amount > 0, currency, path, charged))
  const entryReference = own.bankReference
  const amounts = details.map(d => {
    const node = at(d, 'Amt') ?? at(d, 'AmtDtls.TxAmt.Amt')
    return node && (node['@Ccy'] === undefined || node['@Ccy'] === currency)
      ? money(textAt(node, ''), currency, path) *
          ((textAt(d, 'CdtDbtInd') ? textAt(d, 'CdtDbtInd') === 'DBIT' : amount < 0) ? -1 : 1)
      : null
  })
  const text = textAt(entry, 'AddtlNtryInf')
  // A batch that tells each of its payments is taken payment by payment.
  if (parts.length > 1 && amounts.every(a => a !== null) && amounts.reduce((a, b) => a! + b!, 0) === amount) {
    return parts.map((p, i) => ({
      ...own,
      ...p,
      bankReference: p.bankReference || own.bankReference,
      entryReference,
      text: p.text || text,
      amount: amounts[i]!,
    }))
  }
  if (!parts.length)
    return [
      {
        ...own,
        name: '',
        iban: '',
        reference: '',
        endToEndId: '',
        returnReason: '',
        entryReference,
        ...(charged.length ? { details: { charges: charged } } : {}),
        text,
        amount,
      },
    ]
  const [first] = parts as [ReturnType<typeof readDetails>]
  return [
    {
      ...own,
      ...first,
      bankReference: first.bankReference || own.bankReference,
      entryReference,
      text: [...new Set(parts.map(p => p.text).filter(Boolean))].join(' ') || text,
      amount,
    },
  ]
}

/** Charges that banks kept back, of an entry or of a payment within one. */
function chargesIn(node: XmlNode): ToldAmount[] {
  const charges = at(node, 'Chrgs')
  if (!charges) return []
  const records = all(charges, 'Rcrd')
  const amounts = records.length ? records.map(r => at(r, 'Amt')) : [at(charges, 'TtlChrgsAndTaxAmt')]
  return amounts.flatMap(a => toldAmount(a))
}

const toldAmount = (node: XmlNode | undefined): ToldAmount[] => {
  const amount = textAt(node, '')
  return node && amount && Number(amount) !== 0 ? [{ amount, currency: String(node['@Ccy'] ?? '') }] : []
}

/** The first of several places of an amount, in minor units of the account; null when none tells it. */
function amountAt(node: XmlNode, places: readonly string[], currency: string, path: string): number | null {
  for (const place of places) {
    const found = at(node, place)
    const text = found === undefined ? '' : textAt(found, '')
    if (text && (found!['@Ccy'] === undefined || found!['@Ccy'] === currency))
      return money(text, currency, path)
  }
  return null
}

/**
 * Documents with amounts, as the payer's structured remittance tells them (RfrdDocInf with RfrdDocAmt, ISO
 * 20022). An element that names several documents tells no amount of each, so only its numbers count.
 */
function remittedIn(d: XmlNode, currency: string, path: string): RemittedDocument[] {
  return all(d, 'RmtInf')
    .flatMap(r => all(r, 'Strd'))
    .flatMap((s): RemittedDocument[] => {
      const documents = all(s, 'RfrdDocInf')
      const amounts = at(s, 'RfrdDocAmt')
      if (documents.length !== 1 || !amounts) return []
      const [document] = documents
      const number = textAt(document!, 'Nb')
      const due = amountAt(amounts, ['DuePyblAmt'], currency, path)
      const creditNote = amountAt(amounts, ['CdtNoteAmt'], currency, path) ?? 0
      const discount = amountAt(amounts, ['DscntApldAmt.Amt', 'DscntApldAmt'], currency, path) ?? 0
      const adjustments = all(amounts, 'AdjstmntAmtAndRsn')
      const adjusted = adjustments.reduce(
        (sum, a) =>
          sum + (amountAt(a, ['Amt'], currency, path) ?? 0) * (textAt(a, 'CdtDbtInd') === 'CRDT' ? -1 : 1),
        0,
      )
      const credit = textAt(document!, 'Tp.CdOrPrtry.Cd') === 'CREN'
      const told = amountAt(amounts, ['RmtdAmt'], currency, path)
      const paid = told ?? (credit ? creditNote || (due ?? 0) : (due ?? 0) - discount - creditNote - adjusted)
      if (!number || !paid) return []
      const reason = adjustments.map(a => textAt(a, 'AddtlInf') || textAt(a, 'Rsn')).filter(Boolean)
      return [{ number, credit, due, paid, discount, adjusted, reason: reason.join('; ') }]
    })
}

/** What more a payment tells than whose it is and what for; undefined for nothing. */
function detailsOf(
  d: XmlNode,
  party: string,
  currency: string,
  path: string,
  charged: readonly ToldAmount[],
): LineDetails | undefined {
  const ultimate = textAt(d, `RltdPties.Ultmt${party}.Pty.Nm`) || textAt(d, `RltdPties.Ultmt${party}.Nm`)
  const charges = [...charged, ...chargesIn(d)]
  const [instructed] = toldAmount(at(d, 'AmtDtls.InstdAmt.Amt'))
  const foreign = instructed && instructed.currency !== currency ? instructed : undefined
  const rate = textAt(d, 'AmtDtls.TxAmt.CcyXchg.XchgRate') || textAt(d, 'AmtDtls.InstdAmt.CcyXchg.XchgRate')
  const remittance = remittedIn(d, currency, path)
  const details: LineDetails = {
    ...(ultimate ? { ultimate } : {}),
    ...(charges.length ? { charges } : {}),
    ...((foreign ?? (instructed && charges.length)) ? { instructed } : {}),
    ...(rate ? { rate } : {}),
    ...(remittance.length ? { remittance } : {}),
  }
  return Object.keys(details).length ? details : undefined
}

function readDetails(
  d: XmlNode,
  moneyIn: boolean,
  currency: string,
  path: string,
  charged: readonly ToldAmount[],
) {
  const [party, account] = moneyIn ? ['Dbtr', 'DbtrAcct'] : ['Cdtr', 'CdtrAcct']
  const returned = textAt(d, 'RtrInf.Rsn.Cd') || textAt(d, 'RtrInf.Rsn.Prtry')
  const remittance = all(d, 'RmtInf')
  const endToEndId = textAt(d, 'Refs.EndToEndId')
  const details = detailsOf(d, party!, currency, path, charged)
  return {
    name:
      textAt(d, `RltdPties.${party}.Pty.Nm`) ||
      textAt(d, `RltdPties.${party}.Nm`) ||
      textAt(d, `RltdPties.Ultmt${party}.Pty.Nm`) ||
      textAt(d, `RltdPties.Ultmt${party}.Nm`),
    iban: textAt(d, `RltdPties.${account}.Id.IBAN`) || textAt(d, `RltdPties.${account}.Id.Othr.Id`),
    text: [
      ...remittance.flatMap(r => all(r, 'Ustrd').map(u => textAt(u, ''))),
      ...remittance.flatMap(r => all(r, 'Strd').flatMap(s => all(s, 'RfrdDocInf').map(x => textAt(x, 'Nb')))),
      textAt(d, 'AddtlTxInf'),
    ]
      .filter(Boolean)
      .join(' '),
    reference:
      remittance.flatMap(r => all(r, 'Strd').map(s => textAt(s, 'CdtrRefInf.Ref'))).find(Boolean) ?? '',
    endToEndId: /^NOTPROVIDED$/i.test(endToEndId) ? '' : endToEndId,
    bankReference: textAt(d, 'Refs.AcctSvcrRef'),
    returnReason: returned,
    ...(details ? { details } : {}),
  }
}

function money(text: string, currency: string, path: string): number {
  try {
    return parseAmount(text, currency)
  } catch (error) {
    throw new StatementFault((error as Error).message, path, 'ask the bank for the file again')
  }
}

/** A date, or the day of a date and time; empty when there is none. */
function dayIn(node: XmlNode, name: string, path: string): IsoDate | '' {
  const text = textAt(node, name).slice(0, 10)
  if (text && !isIsoDate(text))
    throw new StatementFault(`"${text}" is not a date`, `${path}.${name}`, 'write it as YYYY-MM-DD')
  return text
}

const dateIn = (node: XmlNode, name: string, path: string): IsoDate | '' =>
  dayIn(node, `${name}.Dt`, path) || dayIn(node, `${name}.DtTm`, path) || dayIn(node, name, path)

/** Writes one statement as camt.053.001.08. Shapes as `Statement`; opening and closing must be told. */
export function writeCamt(s: Statement, createdAt: string): string {
  const money = (amount: number) => ({
    Amt: { '@Ccy': s.currency, '#text': toMajor(Math.abs(amount), s.currency) },
    CdtDbtInd: amount < 0 ? 'DBIT' : 'CRDT',
  })
  const balance = (code: string, amount: number, date: IsoDate) => ({
    Tp: { CdOrPrtry: { Cd: code } },
    ...money(amount),
    Dt: { Dt: date },
  })
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    format: true,
    suppressEmptyNode: true,
  })
  return `<?xml version="1.0" encoding="UTF-8"?>\n${
    builder.build({
      Document: {
        '@xmlns': 'urn:iso:std:iso:20022:tech:xsd:camt.053.001.08',
        BkToCstmrStmt: {
          GrpHdr: { MsgId: s.id, CreDtTm: createdAt },
          Stmt: {
            Id: s.id,
            CreDtTm: createdAt,
            FrToDt: { FrDtTm: `${s.from}T00:00:00`, ToDtTm: `${s.to}T23:59:59` },
            Acct: {
              Id: { IBAN: s.account },
              Ccy: s.currency,
              Svcr: { FinInstnId: { Othr: { Id: 'SIMULATED' } } },
            },
            Bal: [balance('OPBD', s.opening ?? 0, s.from), balance('CLBD', s.closing ?? 0, s.to)],
            Ntry: s.lines.map(l => ({
              ...money(l.amount),
              Sts: { Cd: 'BOOK' },
              BookgDt: { Dt: l.bookingDate },
              ValDt: { Dt: l.valueDate },
              AcctSvcrRef: l.bankReference,
              BkTxCd: codeOf(l.code),
              NtryDtls: {
                TxDtls: {
                  Refs: { EndToEndId: l.endToEndId || 'NOTPROVIDED' },
                  ...money(l.amount),
                  ...(l.name || l.iban ? { RltdPties: parties(l) } : {}),
                  ...(l.text || l.reference
                    ? {
                        RmtInf: {
                          ...(l.text ? { Ustrd: l.text.match(/.{1,140}/gs) } : {}),
                          ...(l.reference
                            ? {
                                Strd: { CdtrRefInf: { Tp: { CdOrPrtry: { Cd: 'SCOR' } }, Ref: l.reference } },
                              }
                            : {}),
                        },
                      }
                    : {}),
                  ...(l.returnReason ? { RtrInf: { Rsn: { Cd: l.returnReason } } } : {}),
                },
              },
            })),
          },
        },
      },
    }) as string
  }`
}

function codeOf(code: string): object {
  const [domain, family, sub] = code.split('-')
  return domain && family && sub
    ? { Domn: { Cd: domain, Fmly: { Cd: family, SubFmlyCd: sub } } }
    : { Prtry: { Cd: code || 'NTRF' } }
}

function parties(l: StatementLine): object {
  const [party, account] = l.amount > 0 ? ['Dbtr', 'DbtrAcct'] : ['Cdtr', 'CdtrAcct']
  return {
    ...(l.name ? { [party!]: { Pty: { Nm: l.name } } } : {}),
    ...(l.iban
      ? { [account!]: { Id: /^[A-Z]{2}\d{2}/.test(l.iban) ? { IBAN: l.iban } : { Othr: { Id: l.iban } } } }
      : {}),
  }
}
