import { acceptBody } from '../../../contract/banking/lines'
import { writeCamt, type Statement, type StatementLine } from '../../../formats/statements'

import { LedgerRefused } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { addBankAccount, listBankAccounts } from '../../../server/services/banking/accounts'
import { listLines, readLine } from '../../../server/services/banking/lines'
import { addRule } from '../../../server/services/banking/rules'
import { takeStatement } from '../../../server/services/banking/statements'
import { acceptLine } from '../../../server/services/banking/accept'
import { ProblemError } from '../../../server/services/common/problems'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, type Books } from '../database'

/*
 * Books with a bank account, made anew for each test of the file that imports them.
 */

export const IBAN = 'IE64IRCE92050112345678'
export let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
  await addBankAccount(books.database, 1, {
    name: 'Current',
    iban: IBAN,
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  await addRule(books.database, 1, { iban: '', words: 'bank charges', account: '6850', moneyIn: false })
})
afterEach(() => books.close())

export let n = 0
/** What the bank's account stands at: each statement opens with what the one before closed with. */
let stands = 0
/** The account stands at nothing again. */
export const anewAtNothing = (): void => {
  stands = 0
}
beforeEach(() => {
  stands = 0
})
export const line = (amount: number, over: Partial<StatementLine> = {}): StatementLine => ({
  bookingDate: '2026-11-13',
  valueDate: '2026-11-13',
  amount,
  name: '',
  iban: '',
  text: '',
  reference: '',
  endToEndId: '',
  bankReference: `B${++n}`,
  code: 'PMNT-RCDT-ESCT',
  returnReason: '',
  ...over,
})
export const file = (lines: StatementLine[], over: Partial<Statement> = {}) => {
  const opening = over.opening ?? stands
  return Buffer.from(
    writeCamt(
      {
        format: 'camt.053',
        id: `S-${++n}`,
        account: IBAN,
        currency: 'EUR',
        from: '2026-11-13',
        to: '2026-11-13',
        opening,
        closing: opening + lines.reduce((a, l) => a + l.amount, 0),
        lines,
        ...over,
      },
      '2026-11-13T22:00:00',
    ),
  )
}
export const take = (list: StatementLine[], over: Partial<Statement> = {}) => {
  const bytes = file(list, over)
  stands = (over.opening ?? stands) + list.reduce((a, l) => a + l.amount, 0)
  return takeStatement(books.database, books.actor, bytes, { name: 'x.xml' })
}
export const lines = async (state: 'open' | 'all' | 'settled' | 'automatic' | 'clear' = 'open') =>
  (await listLines(books.database, { state, limit: 100 })).items
export const accept = async (id: number, body: object, actor = books.actor) =>
  acceptLine(
    books.database,
    actor,
    id,
    acceptBody.parse({ version: (await readLine(books.database, id)).version, ...body }),
  )
/** Takes the first proposal, as somebody does who sees it now. */
export const acceptFirst = async (id: number) => {
  const { proposal, version } = await readLine(books.database, id)
  if (!proposal) throw new ProblemError(422, 'No proposal', 'nothing is proposed')
  return accept(id, { version, proposed: true, action: proposal.action })
}
export const balance = async (account: string) =>
  Number(
    (
      await books.database.select(
        'SELECT COALESCE(SUM(amount), 0) AS n FROM journal_line WHERE account = :account',
        { account },
      )
    )[0]!.n,
  )
export const refusal = async (work: Promise<unknown>): Promise<string> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  if (error instanceof LedgerRefused) return error.refusals.map(r => r.rule).join(' ')
  if (error instanceof ProblemError) return `${error.title}: ${error.message}`
  throw error ?? new Error('nothing was refused')
}
export const agrees = async () => {
  const [account] = await listBankAccounts(books.database)
  expect(account!.difference).toBe(0)
  expect(await balance('1200')).toBe(account!.settledSum)
  expect(await verifyLedger(books.database)).toEqual([])
  return account!
}
export const itemId = async (number: string) =>
  Number((await books.database.select('SELECT id FROM item WHERE number = :number', { number }))[0]!.id)
