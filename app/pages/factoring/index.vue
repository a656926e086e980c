<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { FacilityRow } from '~~/contract/factoring'
import { usePart } from '~/composables/part'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

/** Invoices that are given to factors: schedules and what they cost, offers, money to close, terms. */
const ALL = { schedules: 'Schedules', offer: 'Offer', close: 'To close', factors: 'Factors' } as const
type Part = keyof typeof ALL
const session = useSession()
const parts = computed<Partial<Record<Part, string>>>(() => {
  const { schedules, offer, close, factors } = ALL
  return session.can('factoring.run') ? { schedules, offer, close, factors } : { schedules, close, factors }
})
const { part } = usePart(ALL, 'schedules')
/** Null until they are read: a form of terms shown before would be typed into for nobody. */
const facilities = ref<FacilityRow[] | null>(null)
const trouble = ref('')
async function load(): Promise<void> {
  try {
    await fill(facilities, async () => (await call(contract.factoring.facilities)).items)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
onMounted(load)
</script>

<template>
  <PartsHead v-model="part" title="Factoring" :parts="parts" />
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <ScheduleList v-if="part === 'schedules'" />
  <OfferSheet v-else-if="part === 'offer'" :facilities="facilities ?? []" @made="part = 'schedules'" />
  <FactorClose v-else-if="part === 'close'" />
  <FactorTerms v-else-if="facilities" :facilities="facilities" @changed="load" />
</template>
