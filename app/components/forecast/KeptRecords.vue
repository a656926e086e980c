<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { ForecastRecord } from '~~/contract/forecast'
import { call, problemText } from '~/utils/api'
import { dateText, wholeText } from '~/utils/format'

/** The forecast of each week as it was told then; one is chosen to see what became of it. */
const chosen = defineModel<string>({ required: true })
const rows = ref<ForecastRecord[]>([])
const base = ref('')
const trouble = ref('')
onMounted(async () => {
  try {
    const answer = await call(contract.forecast.records)
    base.value = answer.base
    rows.value = answer.items
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const whole = (amount: number): string => wholeText(amount, base.value)
</script>

<template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  <template v-else-if="rows.length">
    <p class="pt-4"><b class="font-semibold">Kept week by week</b>, as it was told then</p>
    <table data-test="records">
      <thead>
        <tr class="text-soft">
          <th class="pr-6 text-left font-normal">Forecast of</th>
          <th class="num pr-6 font-normal">From customers in 4 weeks</th>
          <th class="num pr-6 font-normal">In all weeks</th>
          <th class="num pr-6 font-normal">At the bank then</th>
          <th class="num pr-6 font-normal">In the end, middle</th>
          <th class="num pr-6 font-normal">Below the floor</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.asOf">
          <td class="pr-6">
            <button
              class="makes inline-block min-h-6"
              :class="chosen === r.asOf ? 'font-semibold' : ''"
              @click="chosen = r.asOf"
            >
              {{ dateText(r.asOf) }}
            </button>
          </td>
          <td class="num pr-6">{{ whole(r.inflow[0] ?? 0) }}</td>
          <td class="num pr-6">{{ whole(r.inflow[1] ?? 0) }}</td>
          <td class="num pr-6">{{ r.start === null ? '' : whole(r.start) }}</td>
          <td class="num pr-6">{{ r.end ? whole(r.end.p50) : '' }}</td>
          <td class="num pr-6">{{ Math.round(r.below * 100) }} %</td>
        </tr>
      </tbody>
    </table>
  </template>
</template>
