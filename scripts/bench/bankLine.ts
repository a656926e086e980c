import { performance } from 'node:perf_hooks'
import { writeCamt } from '../../formats/statements'
import { addBankAccount } from '../../server/services/banking/accounts'
import { readLine } from '../../server/services/banking/lines'
import { takeStatement } from '../../server/services/banking/statements'
import { actor, CUSTOMERS, database, say, TODAY } from './base'

/** A bank line as somebody opens it: its proposals made afresh, among all customers. */
export async function openLine(): Promise<void> {
  const iban = 'NL91ABNA0417164300'
  const own = { name: 'Opened by hand', iban, currency: 'EUR', account: '1298', csvMap: null }
  await addBankAccount(database, 1, own)
  const line = {
    bookingDate: TODAY,
    valueDate: TODAY,
    amount: 123_456,
    name: 'BENCH CUSTOMER 4711',
    iban: '',
    text: 'payment of July',
    reference: '',
    endToEndId: '',
    bankReference: 'B1',
    code: 'PMNT-RCDT-ESCT',
    returnReason: '',
  }
  const statement = {
    format: 'camt.053' as const,
    id: 'S-1',
    account: iban,
    currency: 'EUR',
    from: TODAY,
    to: TODAY,
    opening: 0,
    closing: line.amount,
    lines: [line],
  }
  const bytes = Buffer.from(writeCamt(statement, `${TODAY}T22:00:00`))
  await takeStatement(database, actor, bytes, { propose: false })
  const [row] = await database.select<{ id: number }>('SELECT MAX(id) AS id FROM bank_line')
  const times: number[] = []
  for (let n = 0; n < 20; n++) {
    const start = performance.now()
    await readLine(database, row!.id)
    times.push(performance.now() - start)
  }
  const [first] = times
  times.sort((a, b) => a - b)
  say(
    `${`A bank line opened, ${CUSTOMERS} customers`.padEnd(44)} median ${times[10]!.toFixed(0)} ms, ` +
      `the first ${first!.toFixed(0)} ms`,
  )
}
