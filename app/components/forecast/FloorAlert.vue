<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { ForecastAnswer } from '~~/contract/forecast'
import { call, problemText } from '~/utils/api'
import { dateText, wholeText } from '~/utils/format'

/** Told on Today when the money at the bank may fall below its floor; silent otherwise. */
const crossing = ref<ForecastAnswer['crossing']>(null)
const floor = ref('')
const trouble = ref('')
onMounted(async () => {
  try {
    const forecast = await call(contract.forecast.read, { query: { weeks: 13 } })
    crossing.value = forecast.crossing
    floor.value = wholeText(forecast.floor, forecast.currency, true)
  } catch (error) {
    trouble.value = problemText(error)
  }
})
</script>

<template>
  <p v-if="crossing" class="pb-3" data-test="floor">
    <b class="wrong font-semibold"
      >Cash may fall below {{ floor }} by {{ dateText(crossing.date) }}: within 13 weeks with a chance of
      {{ Math.round(crossing.chance * 100) }} %.</b
    >
    {{ ' ' }}
    <NuxtLink class="plain" to="/forecast">Look at the forecast</NuxtLink>
  </p>
  <p v-else-if="trouble" class="hint pb-3" role="status">The forecast is not there: {{ trouble }}</p>
</template>
