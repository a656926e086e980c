import { plus } from '../../db/where'
import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { electronicFormatIBAN } from 'ibantools'
import type { bankAccountBody, BankAccount } from '../../../contract/banking/lines'
import { int } from '../../db/connection'
import { audit, changes } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'
import { IS_EARLY } from './early'
import { loadCovered } from './world'

const row = z.object({
  id: cell.whole,
  name: cell.text,
  iban: cell.text,
  currency: cell.text,
  account: cell.text,
  csvMap: cell.text.nullable(),
  version: cell.whole,
  opening: cell.sum,
  ledger: cell.sum,
  openLines: cell.sum,
  openSum: cell.sum,
  settledSum: cell.sum,
  earlySum: cell.sum,
  number: cell.text.nullable(),
  to: cell.day.nullable(),
  closing: cell.whole.nullable(),
})

/**
 * Bank accounts with what makes statement and ledger agree: ledger = opening + settled lines; closing balance
 * = ledger + open lines, without those that were announced only and stand on no statement yet.
 */
export async function listBankAccounts(database: Handle): Promise<BankAccount[]> {
  const rows = await database.rows(
    row,
    `
    SELECT b.id, b.name, b.iban, b.currency, b.account, b.csv_map AS csvMap, b.version, s.number,
      s.to_date AS \`to\`, s.closing,
      (SELECT f.opening FROM bank_statement f WHERE f.bank_account_id = b.id ORDER BY f.from_date, f.id
      LIMIT 1) AS opening,
      (SELECT SUM(d.amount) FROM account_day d WHERE d.account = b.account
      AND d.currency = b.currency) AS ledger,
      (SELECT COUNT(*) FROM bank_line l WHERE l.bank_account_id = b.id
      AND l.state = 'open') AS openLines, (SELECT SUM(l.amount) FROM bank_line l
      WHERE l.bank_account_id = b.id AND l.state = 'open') AS openSum,
      (SELECT SUM(l.amount) FROM bank_line l WHERE l.bank_account_id = b.id
      AND l.state = 'settled') AS settledSum,
      (SELECT SUM(l.amount) FROM bank_statement e JOIN bank_line l ON l.statement_id = e.id
      WHERE e.bank_account_id = b.id AND e.format ${IS_EARLY}) AS earlySum
    FROM bank_account b LEFT JOIN bank_statement s ON s.id = (SELECT x.id FROM bank_statement x
      WHERE x.bank_account_id = b.id AND x.format NOT ${IS_EARLY} ORDER BY x.to_date DESC, x.id DESC LIMIT 1)
    WHERE b.active = 1 ORDER BY b.id`,
  )
  const covered = await loadCovered(database, null)
  return rows.map(r => {
    const [opening, ledger, openSum, settledSum, earlySum] = [
      int(r.opening),
      int(r.ledger),
      int(r.openSum),
      int(r.settledSum),
      int(r.earlySum),
    ]
    return {
      id: r.id,
      name: r.name,
      iban: r.iban,
      currency: r.currency,
      account: r.account,
      csvMap: r.csvMap ? (JSON.parse(r.csvMap) as BankAccount['csvMap']) : null,
      version: r.version,
      lastStatement: r.number === null ? null : { number: r.number, to: r.to!, closing: r.closing },
      opening,
      ledger,
      openLines: int(r.openLines),
      openSum,
      settledSum,
      difference:
        r.closing === null || r.number === null
          ? opening + settledSum - ledger
          : r.closing - ledger - openSum + earlySum,
      covered: covered.filter(c => c.currency === r.currency).reduce((a, c) => a + c.amount, 0),
    }
  })
}

async function one(database: Handle, id: number): Promise<BankAccount> {
  const found = (await listBankAccounts(database)).find(a => a.id === id)
  if (!found) throw notFound(`bank account ${id}`)
  return found
}

type Body = z.output<typeof bankAccountBody>

const addBankAccountRow = z.object({
  name: cell.text,
})

export async function addBankAccount(database: Handle, personId: number, body: Body): Promise<BankAccount> {
  const iban = electronicFormatIBAN(body.iban) ?? body.iban
  const [taken] = await database.rows(
    addBankAccountRow,
    'SELECT name FROM bank_account WHERE (iban = :iban AND currency = :currency) OR account = :account',
    { iban, currency: body.currency, account: body.account },
  )
  if (taken)
    throw new ProblemError(
      409,
      'Taken',
      `${taken.name} has this IBAN or this ledger account already: each bank account needs its own`,
      [{ path: 'account', message: 'taken' }],
    )
  const [ledger] = await database.find(
    'ledger_account',
    { number: body.account },
    { columns: ['purpose', 'type'] },
  )
  if (ledger && ledger.purpose && ledger.purpose !== 'bank')
    throw new ProblemError(422, 'Not a bank account', `ledger account ${body.account} has another purpose`, [
      {
        path: 'account',
        message: 'choose another number',
        satisfy: 'a number that is not in the chart yet is made',
      },
    ])
  const id = await database.transaction(async transaction => {
    await changes(transaction, 'chart')
    if (!ledger)
      await transaction.insert('ledger_account', [
        { number: body.account, name: body.name, type: 'asset', purpose: null },
      ])
    const made = (
      await transaction.insert('bank_account', [
        {
          name: body.name,
          iban,
          currency: body.currency,
          account: body.account,
          csv_map: body.csvMap ? JSON.stringify(body.csvMap) : null,
          person_id: personId,
        },
      ])
    )[0]!
    await audit(transaction, personId, 'bank account', iban, null, JSON.stringify(body))
    return made
  })
  return one(database, id)
}

export async function changeBankAccount(
  database: Handle,
  personId: number,
  id: number,
  body: Body,
): Promise<BankAccount> {
  const before = await one(database, id)
  if (before.currency !== body.currency || before.account !== body.account)
    throw new ProblemError(
      409,
      'Fixed',
      'currency and ledger account of a bank account stay as they are: add another account',
    )
  const changed = await database.update(
    'bank_account',
    {
      name: body.name,
      csv_map: body.csvMap ? JSON.stringify(body.csvMap) : null,
      version: plus('version', 1),
    },
    { id, version: body.version ?? before.version },
  )
  if (!changed)
    throw new ProblemError(
      409,
      'Changed meanwhile',
      'someone else changed this account: reload it and make your change again',
    )
  await audit(
    database,
    personId,
    'bank account',
    before.iban,
    JSON.stringify(before.csvMap),
    JSON.stringify(body.csvMap),
  )
  return one(database, id)
}
