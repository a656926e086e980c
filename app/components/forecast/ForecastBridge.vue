<script setup lang="ts">
import { ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ForecastBridgeAnswer } from '~~/contract/forecast'
import { call, problemText } from '~/utils/api'
import { dateText, wholeText } from '~/utils/format'

/** From what was expected on a past day to what came: late, lost, early, and what was written since. */
const props = defineProps<{ asOf: string }>()
const weeks = ref(4)
const bridge = ref<ForecastBridgeAnswer | null>(null)
const trouble = ref('')
let asked = 0
async function load(): Promise<void> {
  const mine = ++asked
  try {
    const found = await call(contract.forecast.bridge, { query: { asOf: props.asOf, weeks: weeks.value } })
    if (mine !== asked) return
    bridge.value = found
    trouble.value = ''
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  }
}
watch([() => props.asOf, weeks], load, { immediate: true })
const whole = (amount: number): string => wholeText(amount, bridge.value!.base)
/** What the bridge is made of; each line is added to the one above. */
const lines = (b: ForecastBridgeAnswer) => [
  { label: 'Expected of what was open', amount: b.expected, isSum: true, hint: '' },
  { label: 'Late', amount: -b.late, isSum: false, hint: 'expected by then, and open still' },
  { label: 'Lost', amount: -b.lost, isSum: false, hint: 'credited, written off or netted instead' },
  { label: 'Early', amount: b.early, isSum: false, hint: 'came although it was expected later' },
  { label: 'Came for what was open', amount: b.ofOpen, isSum: true, hint: '' },
  {
    label: 'For invoices written since',
    amount: b.ofNew,
    isSum: false,
    hint:
      b.foreseenNew === null
        ? 'not foreseen invoice by invoice'
        : `${whole(b.foreseenNew)} were expected of orders and new sales`,
  },
  { label: 'Came in all', amount: b.came, isSum: true, hint: '' },
]
</script>

<template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  <template v-else-if="bridge">
    <p class="flex items-baseline gap-3 pt-4">
      <b class="font-semibold">What became of it</b>
      <select v-model.number="weeks" class="field" aria-label="Weeks after it">
        <option v-for="n in [1, 4, 8, 13]" :key="n" :value="n">
          {{ n }} {{ n === 1 ? 'week' : 'weeks' }}
        </option>
      </select>
      <span class="text-soft">{{ dateText(bridge.asOf) }} to {{ dateText(bridge.until) }}</span>
    </p>
    <div class="flex gap-12">
      <table data-test="bridge">
        <tbody>
          <tr v-for="l in lines(bridge)" :key="l.label" :class="l.isSum ? 'border-t border-rule' : ''">
            <th class="pr-6 text-left" :class="l.isSum ? 'font-semibold' : 'font-normal'" scope="row">
              {{ l.label }}
            </th>
            <td class="num pr-6" :class="l.isSum ? 'font-semibold' : ''">{{ whole(l.amount) }}</td>
            <td class="text-soft">{{ l.hint }}</td>
          </tr>
        </tbody>
      </table>
      <table v-if="bridge.customers.length" data-test="movers">
        <thead>
          <tr class="text-soft">
            <th class="pr-6 text-left font-normal">Who made the difference</th>
            <th class="num pr-6 font-normal">Expected</th>
            <th class="num font-normal">Came</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in bridge.customers.slice(0, 7)" :key="c.number">
            <td class="max-w-[240px] truncate pr-6">
              <NuxtLink class="makes inline-block min-h-6 leading-6" :to="`/accounts/${c.number}`">{{
                c.name
              }}</NuxtLink>
            </td>
            <td class="num pr-6">{{ whole(c.expected) }}</td>
            <td class="num">{{ whole(c.came) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
</template>
