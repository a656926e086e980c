import { z } from 'zod'
import { cell } from '../../db/rows'
import type { setup } from '../../../contract/setup'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'

type Answer = z.output<NonNullable<typeof setup.firstSteps.response>>

const firstStepsRow = z.object({
  customers: cell.whole,
  statements: cell.whole,
  people: cell.whole,
  documents: cell.whole,
  banks: cell.whole,
})

/** What a new house tells before it can work, in the order in which one thing stands on the other. */
export async function firstSteps(database: Handle): Promise<Answer> {
  const { house, demo } = await readSettings(database)
  const [there] = await database.rows(
    firstStepsRow,
    `SELECT (SELECT COUNT(*) FROM person WHERE active = 1) AS people,
      EXISTS (SELECT 1 FROM customer) AS customers,
      EXISTS (SELECT 1 FROM item WHERE register = 'document') AS documents,
      EXISTS (SELECT 1 FROM bank_account) AS banks, EXISTS (SELECT 1 FROM bank_statement) AS statements`,
  )
  const has = (what: keyof NonNullable<typeof there>, least = 1) => Number(there![what]) >= least
  const steps = [
    {
      key: 'company',
      title: 'Say who you are',
      why: 'Name, address, tax number and bank account stand on every letter; the base currency stays for good.',
      done: house.street !== '' && house.city !== '',
      to: '/setup/company',
    },
    {
      key: 'people',
      title: 'Let people in',
      why: 'Each with a role of their own, so that the books tell who did what.',
      done: has('people', 2),
      to: '/setup/people',
    },
    {
      key: 'customers',
      title: 'Bring your customers',
      why: 'From any CSV or workbook; you say what its columns are.',
      done: has('customers'),
      to: '/documents/import',
    },
    {
      key: 'documents',
      title: 'Bring what is open',
      why: 'Open invoices and credit notes, posted against opening balances, so that receivables tie.',
      done: has('documents'),
      to: '/documents/import',
    },
    {
      key: 'bank',
      title: 'Name your bank accounts',
      why: 'Each with a ledger account of its own.',
      done: has('banks'),
      to: '/setup/bank',
    },
    {
      key: 'statement',
      title: 'Take in a first statement',
      why: 'The account opens with its balance; from then on bank and books differ by nothing when all is worked.',
      done: has('statements'),
      to: '/banking',
    },
  ]
  return { done: demo || steps.every(s => s.done), steps }
}
