import { z } from 'zod'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import type { ReferenceRate } from '../../../core/interest'
import {
  propose,
  proposeInterest,
  type Edits,
  type Notice,
  type Proposal,
  type RunTerms,
} from '../../../core/reminders'
import type { PolicyForm, RunScope } from '../../../contract/reminders'
import type { Handle, Values } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { reminderFacts, type Reminded } from './facts'
import { policiesOn, policyOn, termsOf } from './policies'
import { referenceRates } from './rates'

/** What a run was asked for. */
export interface RunAsk {
  kind: 'reminder' | 'interest'
  asOf: IsoDate
  /** Empty: each customer by its own. */
  policy: string
  scope: RunScope
}

/** A run with all that does not change from customer to customer. */
export interface RunBasis extends RunAsk {
  policies: ReadonlyMap<string, PolicyForm>
  rates: readonly ReferenceRate[]
  edits: Edits
}

/** What a run is made with: the policies as they held on its day, and the rates. */
export async function basisOf(database: Handle, ask: RunAsk, edits: Edits): Promise<RunBasis> {
  const policies = ask.policy
    ? new Map([[ask.policy, await policyOn(database, ask.policy, ask.asOf)]])
    : await policiesOn(database, ask.asOf)
  return { ...ask, edits, policies, rates: await referenceRates(database) }
}

/** A customer of a run with the policy it is reminded by. */
const chosenRow = z.object({
  id: cell.whole,
  policy: cell.text,
})
export type Chosen = z.output<typeof chosenRow>

const POLICY = `COALESCE(NULLIF(c.policy, ''), NULLIF(k.policy, ''), 'standard')`

/** The customers that a run looks at: those of its scope and policy with anything overdue. */
export async function chosenFor(database: Handle, ask: RunAsk, only?: readonly number[]): Promise<Chosen[]> {
  const { scope, policy, asOf, kind } = ask
  const values: Values = { asOf, policy, since: monthOf(asOf) }
  const where = ['c.merged_into IS NULL']
  if (policy) where.push(`${POLICY} = :policy`)
  if (only) {
    if (!only.length) return []
    values.only = only
    where.push('c.id IN (:only)')
  }
  if (scope.customer) {
    values.customerId = (await findCustomer(database, scope.customer, {})).id
    where.push('c.id = :customerId')
  }
  if (scope.class) {
    values.class = scope.class
    where.push('c.class = :class')
  }
  if (scope.controller) {
    values.controller = scope.controller
    where.push('c.controller_id = (SELECT id FROM person WHERE email = :controller)')
  }
  if (scope.country) {
    values.country = scope.country
    where.push('c.country = :country')
  }
  const overdue =
    'SELECT customer_id FROM open_item WHERE open > 0 AND due_date < :asOf AND posting_date <= :asOf'
  const paid = `SELECT i.customer_id FROM allocation a JOIN item i ON i.id = a.debit_item_id
    WHERE a.effective >= :since AND a.effective <= :asOf AND a.effective > i.due_date`
  where.push(`c.id IN (${kind === 'interest' ? `${overdue} UNION ${paid}` : overdue})`)
  return database.rows(
    chosenRow,
    `SELECT c.id, ${POLICY} AS policy FROM customer c LEFT JOIN customer_class k ON k.code = c.class
      WHERE ${where.join(' AND ')} ORDER BY c.number`,
    values,
  )
}

/** The first of the month of a day: interest also looks at what was paid late since then. */
const monthOf = (day: IsoDate): IsoDate => `${day.slice(0, 8)}01`

/** So many customers are worked out at a time. */
export const CUSTOMERS_AT_ONCE = 1000

export interface Part extends Proposal {
  customers: Reminded[]
}

/**
 * The proposal for some customers. The same function makes the proposal, shows it after a change, and makes
 * it again when it is confirmed.
 */
export async function proposeFor(
  database: Handle,
  settings: Settings,
  basis: RunBasis,
  chosen: readonly Chosen[],
): Promise<Part> {
  const withInterest =
    basis.kind === 'interest' || [...basis.policies.values()].some(p => p.interest !== null)
  const customers = await reminderFacts(
    database,
    settings,
    chosen.map(c => c.id),
    { asOf: basis.asOf, withInterest, paidSince: basis.kind === 'interest' ? monthOf(basis.asOf) : null },
  )
  const policyOf = new Map(chosen.map(c => [c.id, c.policy]))
  const part: Part = { customers, notices: [], leftOut: [] }
  for (const customer of customers) {
    const code = policyOf.get(customer.id)!
    const policy = basis.policies.get(code)
    if (!policy)
      throw new ProblemError(
        409,
        'No policy',
        `${customer.name} is reminded by the policy ${code}, which does not hold on ${basis.asOf}`,
        [{ path: 'policy', message: code, satisfy: 'choose a policy that holds, or another day' }],
      )
    const terms: RunTerms = {
      policy: termsOf(policy),
      asOf: basis.asOf,
      rates: basis.rates,
      edits: basis.edits,
    }
    const own = basis.kind === 'interest' ? proposeInterest(customer, terms) : propose(customer, terms)
    for (const notice of own.notices) notice.warnings.push(...textWarnings(policy, customer, notice))
    part.notices.push(...own.notices)
    part.leftOut.push(...own.leftOut)
  }
  return part
}

/** A letter that cannot be written in the language of its reader says so before it goes out. */
function textWarnings(policy: PolicyForm, customer: Reminded, notice: Notice): string[] {
  const texts = policy.levels[notice.level - 1]?.texts
  if (!texts || texts[customer.language]) return []
  const language = new Intl.DisplayNames(['en'], { type: 'language' }).of(customer.language)
  return [`no text in ${language}: it is written in English`]
}

/**
 * The accounts that a run of today would write to, each by its own policy, as the run would propose it.
 * `amount` is what they are to be reminded of, in base currency.
 */
export async function accountsToRemind(
  database: Handle,
  settings: Settings,
): Promise<{ count: number; amount: number }> {
  const ask: RunAsk = { kind: 'reminder', asOf: settings.today, policy: '', scope: {} }
  const basis = await basisOf(database, ask, {})
  const chosen = await chosenFor(database, ask)
  const accounts = new Set<string>()
  let amount = 0
  for (let at = 0; at < chosen.length; at += CUSTOMERS_AT_ONCE) {
    const part = await proposeFor(database, settings, basis, chosen.slice(at, at + CUSTOMERS_AT_ONCE))
    const base = new Map(part.customers.flatMap(c => c.items.map(i => [i.id, i.baseOpen ?? 0] as const)))
    for (const notice of part.notices) {
      accounts.add(notice.customer.number)
      amount += notice.items.reduce((a, i) => a + (base.get(i.id) ?? 0), 0)
    }
  }
  return { count: accounts.size, amount }
}
