<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import { call, problemText } from '~/utils/api'
import { dateText, shortDay, wholeText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Forecasts of past month ends beside what really came, and beside plain rules. Nothing is hidden. */
type Test = Awaited<ReturnType<typeof read>>
const read = () => call(contract.forecast.selfTest, { query: { months: 6, weeks: 13 } })
const test = ref<Test | null>(null)
const trouble = ref('')
onMounted(async () => {
  try {
    await fill(test, () => read())
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const whole = (amount: number): string => wholeText(amount, test.value!.base)
function better(error: number, plain: number): string {
  if (!plain) return ''
  const share = Math.round((1 - error / plain) * 100)
  return `${Math.abs(share)} % ${share < 0 ? 'worse' : 'better'}`
}
const made = computed(() => [...new Set(test.value?.weeks.map(w => w.asOf) ?? [])].reverse())
const shown = ref('')
/** The day whose forecast is looked at: a month end, or one that was kept. */
const looked = computed(() => shown.value || made.value[0] || '')
const weeks = computed(() => test.value?.weeks.filter(w => w.asOf === looked.value) ?? [])
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] py-2">
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p v-else-if="!test" class="hint">
      Forecasts of the last six month ends are made again, with what was known then.
    </p>
    <p v-else-if="!test.summary.length" class="text-soft">
      Too little has passed: a forecast is tested once its weeks are over.
    </p>
    <template v-else>
      <p class="pb-2">
        Of open items as they stood at the last {{ made.length }} month ends, in {{ test.base }}: how far a
        week was missed on average, and how often what came lay within its band, which should be four times in
        five.
      </p>
      <table data-test="summary">
        <thead>
          <tr class="text-soft">
            <th class="pr-6 text-left font-normal">Weeks ahead</th>
            <th class="num pr-6 font-normal">Forecast misses by</th>
            <th class="num pr-6 font-normal">Paid when due</th>
            <th class="num pr-6 font-normal">As late as the house</th>
            <th class="num pr-6 font-normal">As late as each customer</th>
            <th class="num pr-6 font-normal">Within the band</th>
            <th class="num pr-6 font-normal">Pinball loss</th>
            <th class="text-left font-normal">Beside the better plain rule</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in test.summary" :key="s.week">
            <td class="pr-6">{{ s.week || 'all' }}</td>
            <td class="num pr-6 font-semibold">{{ whole(s.error) }}</td>
            <td class="num pr-6">{{ whole(s.plain.due) }}</td>
            <td class="num pr-6">{{ whole(s.plain.house) }}</td>
            <td class="num pr-6">{{ whole(s.plain.customer) }}</td>
            <td class="num pr-6">{{ Math.round(s.covered * 100) }} % of {{ s.count }}</td>
            <td class="num pr-6">{{ whole(s.pinball) }}</td>
            <td>{{ better(s.error, Math.min(s.plain.due, s.plain.house)) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="flex items-baseline gap-3 pt-4">
        <label class="label" for="tested-of">Forecast of</label>
        <select id="tested-of" v-model="shown" class="field">
          <option v-for="day in made" :key="day" :value="day === made[0] ? '' : day">
            {{ dateText(day) }}
          </option>
          <option v-if="shown && !made.includes(shown)" :value="shown">{{ dateText(shown) }}</option>
        </select>
        <span class="text-soft">beside what came</span>
      </p>
      <table v-if="weeks.length" data-test="then">
        <thead>
          <tr class="text-soft">
            <th class="pr-6 text-left font-normal">Week until</th>
            <th class="num pr-6 font-normal">One in ten below</th>
            <th class="num pr-6 font-normal">Middle</th>
            <th class="num pr-6 font-normal">One in ten above</th>
            <th class="num pr-6 font-normal">Came</th>
            <th class="text-left font-normal" />
          </tr>
        </thead>
        <tbody>
          <tr v-for="w in weeks" :key="w.week">
            <td class="pr-6">{{ shortDay(w.to) }}</td>
            <td class="num pr-6 text-soft">{{ whole(w.p10) }}</td>
            <td class="num pr-6">{{ whole(w.p50) }}</td>
            <td class="num pr-6 text-soft">{{ whole(w.p90) }}</td>
            <td class="num pr-6 font-semibold">{{ whole(w.came) }}</td>
            <td :class="w.came < w.p10 || w.came > w.p90 ? 'wrong' : 'text-soft'">
              {{ w.came < w.p10 ? 'less than the band' : w.came > w.p90 ? 'more than the band' : 'within' }}
            </td>
          </tr>
        </tbody>
      </table>
      <ForecastBridge v-if="looked" :as-of="looked" />
      <KeptRecords v-model="shown" />
    </template>
  </div>
</template>
