import { refuse } from '../ledger/rules'
import type { Refusal } from '../ledger/types'

/** A cheque that was written for a refund. */
export interface Cheque {
  number: string
  refund: string
  void: boolean
}

/** A number as it is compared: what stands before it, zeros too, does not tell cheques apart. */
const keyOf = (number: string): string =>
  number
    .trim()
    .toUpperCase()
    .replace(/^0+(?=.)/, '')

/**
 * Why a cheque cannot bear a number: it bears another already, void or not, unless the house allows numbers
 * to come again (books that start anew with each cheque book).
 */
export function chequeRefusals(
  number: string,
  others: readonly Cheque[],
  allowsDuplicates: boolean,
  path: string,
): Refusal[] {
  if (!/^[0-9A-Za-z-]{1,20}$/.test(number))
    return [
      refuse(
        'cheque.number',
        path,
        `"${number}" is no number of a cheque`,
        'letters, digits and hyphens only',
      ),
    ]
  const twin = allowsDuplicates ? undefined : others.find(c => keyOf(c.number) === keyOf(number))
  if (!twin) return []
  const message = `cheque ${twin.number} was ${twin.void ? 'voided' : 'written'} for ${twin.refund}`
  return [refuse('cheque.twice', path, message, 'take the next number, or allow duplicates in Setup')]
}
