import type { LineProposal } from '../../../contract/banking/lines'
import type { Handle, Values } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { loadLines } from './lines'
import { proposeFor } from './proposing'

/** Why a line waits that somebody unmatched: it is not taken again without a look. */
export const BY_HAND = 'unmatched by hand'

/** What a proposal is, and why, in two sentences. */
export function withReasons(p: LineProposal): string {
  const why = p.reasons.join('; ')
  return `${p.told}. ${why.charAt(0).toUpperCase()}${why.slice(1)}`
}

/** Proposals of lines made again and kept. */
export async function proposeAgain(database: Handle, where: string, values: Values = {}): Promise<void> {
  const rows = await loadLines(database, `${where} ORDER BY l.booking_date, l.id`, values)
  await keepProposals(database, await proposeFor(database, await readSettings(database), rows))
}

export interface Kept {
  lineId: number
  proposals: LineProposal[]
  confidence: number
  tie: boolean
  asks: boolean
}

const CHUNK = 500

export async function keepProposals(database: Handle, proposed: readonly Kept[]): Promise<void> {
  for (let at = 0; at < proposed.length; at += CHUNK) {
    const chunk = proposed.slice(at, at + CHUNK)
    const cases = (column: string) =>
      `${column} = CASE id ${chunk.map(() => 'WHEN ? THEN ?').join(' ')} ELSE ${column} END`
    await database.run(
      `UPDATE bank_line SET ${cases('proposals')}, ${cases('confidence')}, ${cases('tie')}, ${cases('asks')},
        held = IF(held = '${BY_HAND}', held, '')
        WHERE id IN (${chunk.map(() => '?').join(',')}) AND state = 'open'`,
      [
        ...chunk.flatMap(p => [p.lineId, JSON.stringify(p.proposals)]),
        ...chunk.flatMap(p => [p.lineId, p.confidence]),
        ...chunk.flatMap(p => [p.lineId, p.tie ? 1 : 0]),
        ...chunk.flatMap(p => [p.lineId, p.asks ? 1 : 0]),
        ...chunk.map(p => p.lineId),
      ],
    )
  }
}
