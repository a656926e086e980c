import { addDays } from '../../../core/calendar'
import { changeSettings } from '../../../server/services/setup/settings'
import { TODAY, type Act, type World } from './world'
import { receive, allocate, unallocate, reverse, putRight } from './receipts'
import { slip, voidSlip, sundry, voidSundry } from './paying'
import { acceptReceipt, acceptCovered, acceptLedger, unmatch } from './banking'
import { batch } from './batches'
import { dispute, promise, resolve } from './chasing'
import { factorAnswers, offer } from './factoring'
import { recover, undoRecovery, undoWriteOff, writeOff } from './losing'
import { refund, undoRefund } from './refunding'

/**
 * A period closes, or is opened again: what comes after is refused, what is under way comes before or is
 * refused.
 */
export function period(w: World): Act | null {
  const closedUntil = w.chance.happens(0.5) ? null : addDays(TODAY, -w.chance.whole(3, 12))
  return {
    told: `closed until ${closedUntil}`,
    run: async db => {
      await changeSettings(db, w.actors[0]!, { closedUntil })
      return { order: 0, apply: () => {} }
    },
  }
}

export const WEIGHED: [number, (w: World) => Act | null][] = [
  [20, receive],
  [14, allocate],
  [12, unallocate],
  [8, reverse],
  [8, putRight],
  [8, slip],
  [4, voidSlip],
  [3, sundry],
  [2, voidSundry],
  [8, acceptReceipt],
  [8, acceptCovered],
  [3, acceptLedger],
  [7, unmatch],
  [9, batch],
  [5, dispute],
  [5, resolve],
  [3, promise],
  [5, writeOff],
  [3, undoWriteOff],
  [3, recover],
  [2, undoRecovery],
  [3, offer],
  [7, factorAnswers],
  [4, refund],
  [3, undoRefund],
  [2, period],
]
export const TOTAL = WEIGHED.reduce((a, [n]) => a + n, 0)

/** What somebody does next, drawn by chance. */
export function nextAct(w: World): Act {
  for (;;) {
    let at = w.chance.whole(1, TOTAL)
    const [, make] = WEIGHED.find(([n]) => (at -= n) <= 0)!
    const act = make(w)
    if (act) return act
  }
}

export { FACTORS } from './factoring'
export { TODAY, type Act, type Outcome, type World } from './world'
