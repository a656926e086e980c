import { z } from 'zod'
import { decideAccept } from '../../../core/banking'
import { id } from '../../../contract/common'
import {
  lineAction,
  acceptBody,
  type BankLineDetail,
  type LineProposal,
} from '../../../contract/banking/lines'
import type { Proof } from '../../../contract/receipts'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { firstResult } from '../../ledger/idempotency'
import { prove } from '../books/proof'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { recoveryWarnings } from '../impairment/lists'
import { lateDiscountNeeds } from '../receipts/commands'
import { bind, learn } from './bind'
import { loadLines, readLine } from './lines'
import { proposeAgain, withReasons } from './proposals'
import { locksOf, resolve, type ActionIn } from './resolve'
import { keepRule } from './rules'

type LedgerAction = Extract<ActionIn, { kind: 'ledger' }>

/** Whether lines like this will go to the same ledger account by themselves: a rule of the house. */
const makesRule = (action: ActionIn): action is LedgerAction =>
  action.kind === 'ledger' && (action.words !== '' || action.rememberPayer)

/**
 * A bank line accepted as what somebody says it is. They say it by content, so what is posted is what they
 * saw.
 */
export const acceptLineCommand = command({
  name: 'banking.accept',
  ability: 'receipts.post',
  needs: ({ action }) => {
    if (action.kind === 'receipt') return lateDiscountNeeds(action)
    return makesRule(action) ? [{ ability: 'policy.edit', path: 'action.words' }] : []
  },
  input: z.object({
    id,
    version: z.int(),
    action: lineAction,
    learn: z.boolean().default(true),
    told: z.string(),
    confidence: z.number().nullable(),
  }),
  locks: (db, input) => locksOf(db, [input]),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const { ledger, rows, said, customers, returnOf } = await resolve(db, [input], settings)
    const [first] = customers.values()
    return { ...said[0]!, ledger, row: rows.get(input.id)!, customers, customer: first ?? returnOf }
  },
  decide: decideAccept,
  after: async ({ db, input, state, postings, written, actor }) => {
    const { row, customers } = state
    const { action, told, confidence } = input
    const bound = { row, action, told, confidence, posting: postings[0]!, written: written[0]! }
    await bind(db, actor.id, [bound], false)
    if (input.learn) {
      const customerIds = [...customers.values()].map(c => c.id)
      await learn(db, actor.id, [{ iban: row.iban, name: row.name, customerIds }])
    }
    if (makesRule(action))
      await keepRule(db, actor.id, {
        iban: action.rememberPayer ? row.iban : '',
        words: action.words,
        account: action.account,
        moneyIn: row.amount > 0,
      })
    return { id: input.id }
  },
  warnings: async (db, { id, action }) => {
    if (action.kind !== 'receipt') return []
    const [row] = await loadLines(db, 'l.id = :id', { id })
    return row ? recoveryWarnings(db, row.currency, action.parts) : []
  },
  about: input => String(input.id),
})

type Body = z.input<typeof acceptBody>

/** What is chosen by hand, told in a line. */
function tell(action: ActionIn): string {
  if (action.kind === 'receipt') return `chosen by hand for ${action.parts.map(p => p.customer).join(', ')}`
  if (action.kind === 'ledger') return `to ledger account ${action.account}`
  return action.kind === 'covered' ? 'settles what was chosen' : action.reason
}

/**
 * The ask for the Command. What was taken from a proposal must still be one: by its content, never by its
 * place in a list, since a colleague's posting may have changed the list meanwhile.
 */
async function askOf(database: Handle, lineId: number, ask: Body) {
  const body = acceptBody.parse(ask)
  const said = { id: lineId, version: body.version, action: body.action, learn: body.learn }
  if (!body.proposed) return { ...said, told: tell(body.action), confidence: null }
  const detail = await readLine(database, lineId)
  if (detail.state !== 'open')
    throw new ProblemError(409, 'Done already', 'this line was worked meanwhile: reload to see by whom')
  const now = [detail.proposal, ...detail.alternatives].filter((p): p is LineProposal => p !== null)
  const wanted = JSON.stringify(body.action)
  const seen = now.find(p => JSON.stringify(lineAction.parse(p.action)) === wanted)
  if (seen) return { ...said, told: withReasons(seen), confidence: seen.confidence }
  const instead = now[0] ? `now it would be: ${now[0].told}` : 'now there is none'
  throw new ProblemError(409, 'Another proposal', `this proposal no longer holds, ${instead}. Look again`, [
    { path: 'action', message: 'no longer proposed', satisfy: 'reload the line and look again' },
  ])
}

export async function previewLine(
  database: Handle,
  actor: Actor,
  lineId: number,
  body: Body,
): Promise<Proof> {
  return prove(database, actor, acceptLineCommand, await askOf(database, lineId, body))
}

export async function acceptLine(
  database: Handle,
  actor: Actor,
  lineId: number,
  body: Body,
  idempotency?: Idempotency,
): Promise<BankLineDetail> {
  if (!idempotency || !(await firstResult(database, actor, idempotency))) {
    const ask = await askOf(database, lineId, body)
    await perform(database, actor, acceptLineCommand, ask, idempotency)
    const { iban, name } = await readLine(database, lineId)
    // What was learnt may answer others that wait.
    if (iban || name)
      await proposeAgain(
        database,
        `l.state = 'open' AND ((l.iban <> '' AND l.iban = :iban) OR (l.name <> '' AND l.name = :name))`,
        { iban, name },
      )
  }
  return readLine(database, lineId)
}
