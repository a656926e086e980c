import { parseAmount } from '../../core/money'
import type { IsoDate } from '../../core/calendar'
import { StatementFault } from '../statements/types'
import { all, at, readXml, textAt, type XmlNode } from '../statements/xml'

/** A payment as a file tells it. `amount`: minor units; null when the file tells none that is one. */
export interface ReadPayment {
  endToEndId: string
  amount: number | null
  currency: string
  name: string
  iban: string
  bic: string
  text: string
  /** Of a direct debit. */
  mandate: { reference: string; signedOn: IsoDate; isAmended: boolean; was: Record<string, string> } | null
}

export interface ReadBlock {
  id: string
  method: string
  count: number | null
  sum: string
  date: IsoDate
  scheme: string
  sequence: string
  creditorId: string
  own: { name: string; iban: string }
  payments: ReadPayment[]
}

export interface ReadFile {
  /** As its namespace says, such as `pain.008.001.02`. */
  format: string
  kind: 'transfer' | 'debit'
  id: string
  createdAt: string
  count: number | null
  sum: string
  blocks: ReadBlock[]
}

const ROOTS = { CstmrCdtTrfInitn: 'transfer', CstmrDrctDbtInitn: 'debit' } as const

const countOf = (text: string): number | null => (/^\d{1,15}$/.test(text) ? Number(text) : null)

/** Reads a pain.001 or pain.008 of any of the versions we write. Throws StatementFault. */
export function readPain(text: string): ReadFile {
  const document = at(readXml(text), 'Document')
  const root = (Object.keys(ROOTS) as (keyof typeof ROOTS)[]).find(name => at(document, name))
  if (!document || !root)
    throw new StatementFault(
      'the file is neither a pain.001 nor a pain.008',
      'Document',
      'choose a file of payments',
    )
  const kind = ROOTS[root]
  const message = at(document, root)!
  return {
    format: String(document['@xmlns'] ?? '').replace('urn:iso:std:iso:20022:tech:xsd:', ''),
    kind,
    id: textAt(message, 'GrpHdr.MsgId'),
    createdAt: textAt(message, 'GrpHdr.CreDtTm'),
    count: countOf(textAt(message, 'GrpHdr.NbOfTxs')),
    sum: textAt(message, 'GrpHdr.CtrlSum'),
    blocks: all(message, 'PmtInf').map(block => readBlock(block, kind)),
  }
}

function readBlock(block: XmlNode, kind: ReadFile['kind']): ReadBlock {
  const [own, date] = kind === 'transfer' ? ['Dbtr', 'ReqdExctnDt'] : ['Cdtr', 'ReqdColltnDt']
  const payments = all(block, kind === 'transfer' ? 'CdtTrfTxInf' : 'DrctDbtTxInf')
  return {
    id: textAt(block, 'PmtInfId'),
    method: textAt(block, 'PmtMtd'),
    count: countOf(textAt(block, 'NbOfTxs')),
    sum: textAt(block, 'CtrlSum'),
    date: textAt(block, `${date}.Dt`) || textAt(block, date!),
    scheme: textAt(block, 'PmtTpInf.LclInstrm.Cd'),
    sequence: textAt(block, 'PmtTpInf.SeqTp'),
    creditorId: textAt(block, 'CdtrSchmeId.Id.PrvtId.Othr.Id'),
    own: { name: textAt(block, `${own}.Nm`), iban: textAt(block, `${own}Acct.Id.IBAN`) },
    payments: payments.map(p => readPayment(p, kind)),
  }
}

function readPayment(payment: XmlNode, kind: ReadFile['kind']): ReadPayment {
  const other = kind === 'transfer' ? 'Cdtr' : 'Dbtr'
  const money = at(payment, kind === 'transfer' ? 'Amt.InstdAmt' : 'InstdAmt')
  const currency = String(money?.['@Ccy'] ?? '')
  const mandate = at(payment, 'DrctDbtTx.MndtRltdInf')
  return {
    endToEndId: textAt(payment, 'PmtId.EndToEndId'),
    amount: amountIn(textAt(money, ''), currency),
    currency,
    name: textAt(payment, `${other}.Nm`),
    iban: textAt(payment, `${other}Acct.Id.IBAN`),
    bic: textAt(payment, `${other}Agt.FinInstnId.BICFI`) || textAt(payment, `${other}Agt.FinInstnId.BIC`),
    text: textAt(payment, 'RmtInf.Ustrd'),
    mandate: mandate
      ? {
          reference: textAt(mandate, 'MndtId'),
          signedOn: textAt(mandate, 'DtOfSgntr'),
          isAmended: textAt(mandate, 'AmdmntInd') === 'true',
          was: {
            reference: textAt(mandate, 'AmdmntInfDtls.OrgnlMndtId'),
            creditorId: textAt(mandate, 'AmdmntInfDtls.OrgnlCdtrSchmeId.Id.PrvtId.Othr.Id'),
            iban: textAt(mandate, 'AmdmntInfDtls.OrgnlDbtrAcct.Id.IBAN'),
          },
        }
      : null,
  }
}

function amountIn(text: string, currency: string): number | null {
  try {
    return parseAmount(text, currency)
  } catch (error) {
    if (error instanceof RangeError) return null
    throw error
  }
}
