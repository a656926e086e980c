<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { bucketsOf } from '~~/core/aging'
import { RISK_CLASSES } from '~~/core/accounts/fields'
import type { AllowancePolicy } from '~~/core/impairment/policy'
import { contract } from '~~/contract'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Rates of loss by age band and risk class, and what the past of this ledger proposes for them. */
const props = defineProps<{ policy: AllowancePolicy; may: boolean }>()
const session = useSession()
const perCent = (rates: readonly number[]) => rates.map(r => r / 100)
const bounds = ref(props.policy.bounds.join(', '))
const rest = ref(perCent(props.policy.matrix.rest))
const classes = reactive(
  Object.entries(props.policy.matrix.byClass).map(([riskClass, rates]) => ({
    riskClass,
    rates: perCent(rates),
  })),
)
const boundsRead = computed(() =>
  bounds.value
    .split(/[^\d]+/)
    .filter(Boolean)
    .map(Number),
)
const labels = computed(() => {
  try {
    return bucketsOf(boundsRead.value).map(b => b.label)
  } catch {
    return null
  }
})
/** As many rates as there are bands: the last goes on. */
const fitted = (rates: readonly number[]) =>
  (labels.value ?? []).map((_, band) => rates[band] ?? rates.at(-1) ?? 0)
const hundredths = (rates: readonly number[]) => fitted(rates).map(r => Math.round(Number(r) * 100))

defineExpose({
  read: (): AllowancePolicy => ({
    bounds: boundsRead.value,
    matrix: {
      rest: hundredths(rest.value),
      byClass: Object.fromEntries(classes.map(c => [c.riskClass, hundredths(c.rates)])),
    },
  }),
})
const free = computed(() => Object.keys(RISK_CLASSES).filter(r => !classes.some(c => c.riskClass === r)))

type Proposed = Awaited<ReturnType<typeof fetchRates>>
const fetchRates = () => call(contract.allowance.rates, { query: { months: 12 } })
const proposed = ref<Proposed | null>(null)
const trouble = ref('')
async function propose(): Promise<void> {
  try {
    await fill(proposed, () => fetchRates())
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
const total = (list: readonly { stood: number[]; lost: number[] }[], what: 'stood' | 'lost', band: number) =>
  list.reduce((sum, day) => sum + day[what][band]!, 0)
</script>

<template>
  <div class="flex flex-col gap-1.5">
    <span
      ><label class="label" for="loss-bounds">Bands end at </label
      ><input id="loss-bounds" v-model="bounds" class="field w-[130px]" :disabled="!may" /> days late</span
    >
    <p v-if="!labels" class="wrong">One to four whole days late, rising, such as 30, 60, 90.</p>
    <table v-else class="w-auto">
      <thead>
        <tr>
          <th class="pr-4 text-left font-normal whitespace-nowrap text-soft">per cent lost</th>
          <th v-for="label in labels" :key="label" class="w-[78px] px-1 text-right font-normal text-soft">
            {{ label }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td class="pr-4 whitespace-nowrap">All others</td>
          <td v-for="(label, band) in labels" :key="label" class="px-1">
            <input
              :value="fitted(rest)[band]"
              class="field w-[70px] text-right"
              type="number"
              min="0"
              max="100"
              step="0.01"
              :aria-label="`All others, ${label}`"
              :disabled="!may"
              @input="
                rest = fitted(rest).map((r, n) =>
                  n === band ? Number(($event.target as HTMLInputElement).value) : r,
                )
              "
            />
          </td>
        </tr>
        <tr v-for="(c, n) in classes" :key="c.riskClass">
          <td class="pr-4 whitespace-nowrap">Risk class {{ c.riskClass }}</td>
          <td v-for="(label, band) in labels" :key="label" class="px-1">
            <input
              :value="fitted(c.rates)[band]"
              class="field w-[70px] text-right"
              type="number"
              min="0"
              max="100"
              step="0.01"
              :aria-label="`Risk class ${c.riskClass}, ${label}`"
              :disabled="!may"
              @input="
                c.rates = fitted(c.rates).map((r, k) =>
                  k === band ? Number(($event.target as HTMLInputElement).value) : r,
                )
              "
            />
          </td>
          <td>
            <button v-if="may" type="button" class="plain ml-2" @click="classes.splice(n, 1)">Remove</button>
          </td>
        </tr>
      </tbody>
    </table>
    <span v-if="may" class="flex flex-wrap gap-4">
      <button
        v-for="riskClass in free"
        :key="riskClass"
        type="button"
        class="plain"
        @click="classes.push({ riskClass, rates: [...rest] })"
      >
        A row for {{ riskClass }}
      </button>
      <button type="button" class="plain" @click="propose">Look at our own losses</button>
    </span>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <table v-if="proposed" class="mt-1 w-auto" data-test="proposed">
      <thead>
        <tr>
          <th class="pr-4 text-left font-normal whitespace-nowrap text-soft">
            {{ dateText(proposed.days[0]!.date) }} to {{ dateText(proposed.days.at(-1)!.date) }}
          </th>
          <th
            v-for="label in proposed.bands"
            :key="label"
            class="w-[112px] px-1 text-right font-normal text-soft"
          >
            {{ label }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td class="pr-4 whitespace-nowrap">Stood on {{ proposed.days.length }} month ends</td>
          <td v-for="(label, band) in proposed.bands" :key="label" class="num px-1">
            {{ amountText(total(proposed.days, 'stood', band), session.base) }}
          </td>
        </tr>
        <tr>
          <td class="pr-4 whitespace-nowrap">of it lost since, net</td>
          <td v-for="(label, band) in proposed.bands" :key="label" class="num px-1">
            {{ amountText(total(proposed.days, 'lost', band), session.base) }}
          </td>
        </tr>
        <tr>
          <td class="pr-4 whitespace-nowrap">Rate by what became of them</td>
          <td v-for="(label, band) in proposed.bands" :key="label" class="num px-1">
            {{ (proposed.cohorts[band]! / 100).toFixed(2) }}
          </td>
          <td>
            <button type="button" class="plain ml-2" @click="rest = perCent(proposed.cohorts)">
              Take these
            </button>
          </td>
        </tr>
        <tr>
          <td class="pr-4 whitespace-nowrap">rolls on to the next</td>
          <td v-for="(label, band) in proposed.bands" :key="label" class="num px-1">
            {{ ((proposed.roll.rolls[band] ?? proposed.roll.lastLost) / 100).toFixed(2) }}
          </td>
        </tr>
        <tr>
          <td class="pr-4 whitespace-nowrap">Rate by rolling on</td>
          <td v-for="(label, band) in proposed.bands" :key="label" class="num px-1">
            {{ (proposed.roll.rates[band]! / 100).toFixed(2) }}
          </td>
          <td>
            <button type="button" class="plain ml-2" @click="rest = perCent(proposed.roll.rates)">
              Take these
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="proposed" class="hint">
      {{ amountText(proposed.roll.lost, proposed.base, true) }} were written off in these months, less what
      came back: beside the last band that is what is lost of it. A month rolls thirty days on, so bands of
      other lengths roll otherwise.
    </p>
  </div>
</template>
