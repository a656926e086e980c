import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { CardAnswer, CardRefund, CardTerminal } from '../server/ports/cardTerminal'
import { chance } from './chance'

/** One card in so many does not take money any more. */
const DEAD_CARDS = 0.05

/**
 * A card terminal that keeps a journal in a folder, one file for each refund that it was asked for. It knows
 * each payment by the reference on its slip; some cards were blocked since.
 */
export function simulatedTerminal(folder: string): CardTerminal {
  return {
    refund: async asked => {
      const file = join(folder, `${asked.key.replace(/[^\w-]/g, '_')}.json`)
      if (existsSync(file)) return (JSON.parse(readFileSync(file, 'utf8')) as { answer: CardAnswer }).answer
      const answer = answerTo(asked)
      mkdirSync(folder, { recursive: true })
      writeFileSync(`${file}.part`, JSON.stringify({ asked, answer }, null, 2))
      renameSync(`${file}.part`, file)
      return answer
    },
  }
}

function answerTo({ key, reference }: CardRefund): CardAnswer {
  if (!reference.trim())
    return { taken: false, code: 'AC01', text: 'the payment has no reference of a terminal' }
  const c = chance(`card ${reference}`)
  if (c.happens(DEAD_CARDS)) return { taken: false, code: 'AC06', text: 'the card is blocked' }
  return { taken: true, slip: `T${c.whole(100_000, 999_999)}-${key}` }
}
