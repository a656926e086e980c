import { parseAmount } from '../../core/money'
import { CsvFault, readCsv } from '../csv'
import { StatementFault } from '../statements/types'
import { all, at, decodeText, readXml, textAt, type XmlNode } from '../statements/xml'

/** One line of a remittance advice: which document, what was paid for it, what was deducted. Minor units. */
export interface AdviceLine {
  number: string
  amount: number | null
  discount: number
  credit: boolean
}
export interface Advice {
  payer: string
  reference: string
  date: string
  currency: string
  total: number | null
  lines: AdviceLine[]
}

/**
 * Reads a remittance advice: ISO 20022 remt.001 XML, or CSV with the columns `number`, `amount` (may be
 * empty: all of it) and `discount`. Throws StatementFault.
 */
export function readAdvice(bytes: Uint8Array, currency: string): Advice {
  const text = decodeText(bytes)
  const advice = text.trimStart().startsWith('<') ? readRemt(text, currency) : readAdviceCsv(text, currency)
  if (!advice.lines.length)
    throw new StatementFault('the advice names no document', 'file', 'it needs a line for each document paid')
  return advice
}

function money(text: string, currency: string, path: string): number {
  try {
    return parseAmount(text.replace(/[\s,](?=\d{3}(\D|$))/g, '').replace(',', '.'), currency)
  } catch (error) {
    throw new StatementFault((error as Error).message, path, 'write amounts as 1234.50')
  }
}

const NUMBER = /^(number|invoice|invoice number|document|reference|rechnung|facture)$/
function readAdviceCsv(text: string, currency: string): Advice {
  let table: ReturnType<typeof readCsv>
  try {
    table = readCsv(text)
  } catch (error) {
    if (error instanceof CsvFault)
      throw new StatementFault(error.message, `line ${error.line}`, 'save it as CSV with a header line')
    throw error
  }
  const column = (pattern: RegExp) => table.header.find(h => pattern.test(h))
  const [number, amount, discount] = [
    column(NUMBER),
    column(/^(amount|paid|betrag|montant)/),
    column(/^(discount|deduction|skonto|escompte)/),
  ]
  if (!number)
    throw new StatementFault(
      `no column names the document: the file has ${table.header.join(', ')}`,
      'line 1',
      'name it "number"',
    )
  return {
    payer: '',
    reference: '',
    date: '',
    currency,
    total: null,
    lines: table.rows
      .filter(r => r.cells[number])
      .map(({ line, cells }) => {
        const paid = amount && cells[amount] ? money(cells[amount], currency, `line ${line}`) : null
        return {
          number: cells[number]!,
          amount: paid === null ? null : Math.abs(paid),
          discount:
            discount && cells[discount] ? Math.abs(money(cells[discount], currency, `line ${line}`)) : 0,
          credit: paid !== null && paid < 0,
        }
      }),
  }
}

function readRemt(text: string, currency: string): Advice {
  const message = at(readXml(text), 'Document.RmtAdvc')
  if (!message)
    throw new StatementFault(
      'this XML holds no remittance advice',
      'Document',
      'choose an ISO 20022 remt.001 file (RmtAdvc)',
    )
  const remittance = all(message, 'RmtInf')
  const amountIn = (node: XmlNode | undefined, path: string): number => {
    const amount = at(node, path)
    if (!amount) return 0
    if (amount['@Ccy'] !== undefined && amount['@Ccy'] !== currency)
      throw new StatementFault(
        `the advice is in ${String(amount['@Ccy'])}, the tick sheet in ${currency}`,
        path,
        `choose ${String(amount['@Ccy'])} on the tick sheet`,
      )
    return money(textAt(amount, ''), currency, path)
  }
  const lines = remittance
    .flatMap(r => all(r, 'Strd'))
    .flatMap(s => {
      const amounts = at(s, 'RfrdDocAmt')
      const credit = amountIn(amounts, 'CdtNoteAmt')
      const paid = credit || amountIn(amounts, 'RmtdAmt')
      return all(s, 'RfrdDocInf').map((d): AdviceLine => ({
        number: textAt(d, 'Nb'),
        amount: paid || null,
        discount: amountIn(amounts, 'DscntApldAmt.Amt') || amountIn(amounts, 'DscntApldAmt'),
        credit: credit > 0 || ['CREN'].includes(textAt(d, 'Tp.CdOrPrtry.Cd')),
      }))
    })
    .filter(l => l.number)
  const original = remittance.map(r => at(r, 'OrgnlPmtInf')).find(Boolean)
  return {
    payer: textAt(original, 'Dbtr.Nm') || textAt(message, 'GrpHdr.InitgPty.Nm'),
    reference: textAt(original, 'Refs.EndToEndId') || textAt(message, 'GrpHdr.MsgId'),
    date: (textAt(original, 'ReqdExctnDt.Dt') || textAt(original, 'ReqdExctnDt')).slice(0, 10),
    currency,
    total: at(original, 'Amt') ? amountIn(original, 'Amt.InstdAmt') || null : null,
    lines,
  }
}
