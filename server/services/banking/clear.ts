import { Op } from '../../db/where'
import { z } from 'zod'
import { decideLines } from '../../../core/banking'
import { id } from '../../../contract/common'
import { lineAction, type LineProposal } from '../../../contract/banking/lines'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { command, perform } from '../../ledger/command'
import type { Actor } from '../people/scope'
import { bind, learn, type Bound } from './bind'
import { loadLines } from './lines'
import { BY_HAND, proposeAgain, withReasons } from './proposals'
import { locksOf, resolve } from './resolve'

const said = z.object({
  id,
  version: z.int(),
  action: lineAction,
  told: z.string(),
  confidence: z.number().nullable(),
})
/** A line with what it is said to be. */
export type Said = z.input<typeof said>

/** Lines as what they are said to be, some dozens at a time; one that is refused stays open and says why. */
export const acceptLinesCommand = command({
  name: 'banking.acceptMany',
  ability: 'receipts.post',
  input: z.object({ lines: z.array(said).min(1), automatic: z.boolean() }),
  locks: (db, input) => locksOf(db, input.lines),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) =>
    resolve(db, input.lines, settings),
  decide: state =>
    decideLines(
      state.ledger,
      // A line that somebody took meanwhile is theirs.
      state.said.filter(s => s.line.state === 'open' && s.line.version === s.version),
    ),
  after: async ({ db, input, state, postings, written, facts, actor }) => {
    const asked = new Map(input.lines.map(l => [l.id, l]))
    const done = facts.filter(f => f.posting !== null)
    const bound = done.map((f): Bound => {
      const { action, told, confidence } = asked.get(f.lineId)!
      const row = state.rows.get(f.lineId)!
      return { row, action, told, confidence, posting: postings[f.posting!]!, written: written[f.posting!]! }
    })
    await bind(db, actor.id, bound, input.automatic)
    await learn(
      db,
      actor.id,
      bound.map(({ row, action }) => ({
        iban: row.iban,
        name: row.name,
        customerIds:
          action.kind === 'receipt' ? action.parts.map(p => state.customers.get(p.customer)!.id) : [],
      })),
    )
    const held = facts.filter(f => f.posting === null)
    for (const f of held) {
      const why = f.refusals.map(r => r.message).join('; ')
      await db.update('bank_line', { held: why.slice(0, 300) }, { id: f.lineId })
    }
    return { applied: done.length, held: held.length }
  },
  about: ({ lines }) => (lines.length === 1 ? 'one line' : `${lines.length} lines`),
})

const PASSAGE = 120

/** Posts lines in passages of some dozens. */
export async function applyLines(
  database: Handle,
  actor: Actor,
  lines: readonly Said[],
  automatic: boolean,
  progress?: (done: number) => Promise<void>,
): Promise<{ applied: number; held: number }> {
  const sum = { applied: 0, held: 0 }
  for (let at = 0; at < lines.length; at += PASSAGE) {
    const passage = { lines: lines.slice(at, at + PASSAGE), automatic }
    const done = await perform(database, actor, acceptLinesCommand, passage)
    sum.applied += done.applied
    sum.held += done.held
    if (progress) await progress(Math.min(at + PASSAGE, lines.length))
  }
  return sum
}

/** Takes clear lines by the first proposal that is kept of them. */
export async function applyClear(
  database: Handle,
  actor: Actor,
  lineIds: readonly number[],
  automatic: boolean,
  progress?: (done: number) => Promise<void>,
): Promise<{ applied: number; held: number }> {
  const { matching } = await readSettings(database)
  const clear: Said[] = []
  for (let at = 0; at < lineIds.length; at += 2000) {
    const rows = await loadLines(
      database,
      `l.id IN (:ids) AND l.state = 'open' AND l.tie = 0 AND l.asks = 0 AND l.confidence >= :threshold
        ORDER BY l.booking_date, l.id`,
      { ids: lineIds.slice(at, at + 2000), threshold: matching.threshold },
    )
    for (const { id: lineId, version, proposals } of rows) {
      const [p] = JSON.parse(proposals ?? '[]') as LineProposal[]
      const { action, confidence } = p!
      clear.push({ id: lineId, version, action, told: withReasons(p!), confidence })
    }
  }
  return applyLines(database, actor, clear, automatic, progress)
}

/**
 * Every clear line at once, by somebody's word: by the proposals as they were shown, not by new ones. What no
 * longer holds is refused by the ledger, and gets a new proposal.
 */
export async function acceptClear(
  database: Handle,
  actor: Actor,
): Promise<{ applied: number; held: number }> {
  const { matching } = await readSettings(database)
  const rows = await database.find(
    'bank_line',
    {
      state: 'open',
      tie: 0,
      asks: 0,
      held: { [Op.ne]: BY_HAND },
      confidence: { [Op.gte]: matching.threshold },
    },
    { columns: ['id'], order: ['booking_date', 'id'] },
  )
  const done = await applyClear(
    database,
    actor,
    rows.map(r => r.id),
    false,
  )
  await proposeAgain(database, `l.state = 'open' AND l.held = ''`)
  return done
}
