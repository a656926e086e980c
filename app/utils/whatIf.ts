import type { WhatIfBody } from '~~/contract/forecast'
import { changesOf, ratesOf, type ForecastAsk, type SentHouse } from '~~/core/forecast'

/** Whether a page can try it by itself: customers, payments, rates. The rest only the tables know. */
export const isOfPage = (w: WhatIfBody): boolean => !w.sell && !w.campaign && !w.stopHeld

/** The question with what is otherwise in it, as the server would ask it. */
export function whatIfOf({ material, numbers, plannedIds }: SentHouse, w: WhatIfBody): ForecastAsk {
  const { ask } = material
  const held = new Map((w.payments ?? []).map(p => [p.id, p.days]))
  const changes = changesOf(
    (w.customers ?? []).flatMap(({ customer, days = 0, never = false, discount = 0 }) => {
      const id = numbers.get(customer)
      // Who owes nothing and orders nothing changes nothing.
      return id === undefined ? [] : [{ id, days, never, discount }]
    }),
  )
  return {
    ...ask,
    planned: ask.planned.map((p, n) => ({ ...p, day: p.day + (held.get(plannedIds[n]!) ?? 0) })),
    whatIf: { customers: [...changes].map(([id, how]) => ({ id, ...how })), rates: ratesOf(w.rates ?? []) },
  }
}
