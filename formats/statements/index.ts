import { readBai2 } from './bai2'
import { readCamt } from './camt'
import { csvHeader, guessMap, readCsvStatement, type ColumnMap } from './csv'
import { readMt940 } from './mt940'
import { readOfx } from './ofx'
import { StatementFault, type Statement } from './types'
import { decodeText } from './xml'

export { writeCamt } from './camt'
export { decodeText } from './xml'
export { csvHeader, guessMap, type ColumnMap } from './csv'
export { StatementFault, type LineDetails, type Statement, type StatementLine } from './types'

export type StatementFormat = Statement['format']

/** Which format a file has, told by how it begins. */
export function formatOf(text: string): StatementFormat {
  const start = text.slice(0, 4000).trimStart()
  if (/^(OFXHEADER|<\?OFX|<OFX>)/i.test(start) || (/^<\?xml/i.test(start) && /<\?OFX|<OFX>/i.test(start)))
    return 'OFX'
  if (start.startsWith('<')) return 'camt.053'
  if (/^01,[^\n]*,[12]?\s*\//.test(start)) return 'BAI2'
  return /(^|\n):20:/.test(start) ? 'MT940' : 'CSV'
}

/**
 * Reads a bank's file, whatever its format, and checks that opening balance and lines make the closing
 * balance. `csv` is needed for CSV only: the map saved with the account. Throws StatementFault.
 */
export function readStatements(
  bytes: Uint8Array,
  csv?: { map: ColumnMap | null; currency: string; account: string },
): Statement[] {
  if (!bytes.length) throw new StatementFault('the file is empty', 'file', 'choose another file')
  const text = decodeText(bytes)
  const format = formatOf(text)
  const statements =
    format === 'camt.053'
      ? readCamt(text)
      : format === 'OFX'
        ? readOfx(text)
        : format === 'MT940'
          ? readMt940(text)
          : format === 'BAI2'
            ? readBai2(text)
            : [readMapped(text, csv)]
  statements.forEach(checkBalance)
  return statements
}

function readMapped(
  text: string,
  csv?: { map: ColumnMap | null; currency: string; account: string },
): Statement {
  const { header, rows } = csvHeader(text)
  if (!csv)
    throw new StatementFault(
      'a CSV file does not tell whose account it is',
      'account',
      'name the bank account',
    )
  return readCsvStatement(
    text,
    csv.map ??
      guessMap(
        header,
        rows.slice(0, 50).map(r => r.cells),
      ),
    csv.currency,
    csv.account,
  )
}

function checkBalance(s: Statement): void {
  if (s.opening === null || s.closing === null) return
  const sum = s.lines.reduce((a, l) => a + l.amount, 0)
  if (s.opening + sum === s.closing) return
  throw new StatementFault(
    `statement ${s.id} does not add up: opening ${s.opening} and ${s.lines.length} lines of ${sum} ` +
      `make ${s.opening + sum}, the closing balance is ${s.closing} (minor units of ${s.currency})`,
    'balance',
    'lines are missing or changed: fetch the file again',
  )
}
