import { computed, ref } from 'vue'
import type { WhatIfBody } from '~~/contract/forecast'

/** One thing that is otherwise, with its words. */
export interface Change {
  words: string
  body: WhatIfBody
}

/** Many changes as one what-if. */
export function merged(bodies: readonly WhatIfBody[]): WhatIfBody {
  const all: WhatIfBody = {}
  for (const body of bodies) {
    all.customers = [...(all.customers ?? []), ...(body.customers ?? [])]
    all.payments = [...(all.payments ?? []), ...(body.payments ?? [])]
    all.rates = [...(all.rates ?? []), ...(body.rates ?? [])]
    all.sell = body.sell ?? all.sell ?? null
    all.campaign = body.campaign || all.campaign || false
    all.stopHeld = body.stopHeld || all.stopHeld || false
  }
  return all
}

/** What is otherwise now: changes are added, taken out one by one, or all at once. */
export function useWhatIf() {
  const changes = ref<Change[]>([])
  return {
    changes,
    body: computed(() => merged(changes.value.map(c => c.body))),
    add: (change: Change) => (changes.value = [...changes.value, change]),
    remove: (place: number) => (changes.value = changes.value.filter((_, n) => n !== place)),
    clear: () => (changes.value = []),
  }
}
