import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'

import { audit } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'

const listRulesRow = z.object({
  id: cell.whole,
  iban: cell.text,
  words: cell.text,
  account: cell.text,
  accountName: cell.text,
  moneyIn: cell.sum,
  by: cell.text,
})

const listRulesPayerLearntRow = z.object({
  id: cell.whole,
  iban: cell.text,
  name: cell.text,
  times: cell.whole,
  number: cell.text,
  customerName: cell.text,
})

export async function listRules(database: Handle) {
  const [rules, payers] = await Promise.all([
    database.rows(
      listRulesRow,
      `SELECT r.id, r.iban, r.words, r.account, a.name AS accountName, r.money_in AS moneyIn, p.name AS
        \`by\` FROM ledger_rule r JOIN ledger_account a ON a.number = r.account JOIN person p ON p.id =
        r.person_id ORDER BY r.id`,
    ),
    database.rows(
      listRulesPayerLearntRow,
      `SELECT l.id, l.iban, l.name, l.times, c.number, c.name AS customerName FROM payer_learnt l
        JOIN customer c ON c.id = l.customer_id ORDER BY l.id DESC LIMIT 500`,
    ),
  ])
  return {
    rules: rules.map(r => ({ ...r, moneyIn: Boolean(r.moneyIn) })),
    payers: payers.map(({ number, customerName, ...p }) => ({
      ...p,
      customer: { number, name: customerName },
    })),
  }
}

interface Rule {
  iban: string
  words: string
  account: string
  moneyIn: boolean
}

/** A rule, with its row in the audit trail; the same again changes nothing. */
export async function keepRule(database: Handle, personId: number, rule: Rule): Promise<void> {
  const [id] = await database.insert(
    'ledger_rule',
    [
      {
        iban: rule.iban,
        words: rule.words,
        account: rule.account,
        money_in: rule.moneyIn ? 1 : 0,
        person_id: personId,
      },
    ],
    { ignore: true },
  )
  if (id) await audit(database, personId, 'bank rule', rule.account, null, JSON.stringify(rule))
}

export async function addRule(database: Handle, personId: number, body: Rule) {
  if (!body.iban && !body.words)
    throw new ProblemError(422, 'Nothing to go by', 'a rule needs words or a bank account', [
      { path: 'words', message: 'say which words' },
    ])
  const [account] = await database.find('ledger_account', { number: body.account }, { columns: ['number'] })
  if (!account)
    throw new ProblemError(422, 'No such account', `there is no ledger account ${body.account}`, [
      { path: 'account', message: 'choose one of the chart' },
    ])
  await keepRule(database, personId, body)
  return listRules(database)
}

export async function forget(
  database: Handle,
  personId: number,
  table: 'ledger_rule' | 'payer_learnt',
  id: number,
): Promise<void> {
  const [row] = await database.select(`SELECT * FROM ${table} WHERE id = :id`, { id })
  if (!row) throw notFound(`${table === 'ledger_rule' ? 'rule' : 'payer'} ${id}`)
  await database.run(`DELETE FROM ${table} WHERE id = :id`, { id })
  await audit(database, personId, table, String(id), JSON.stringify(row), null)
}
