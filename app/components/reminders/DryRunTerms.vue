<script setup lang="ts">
import { toRaw } from 'vue'
import type { PolicyForm } from '~~/contract/reminders'
import { LEVEL_DAYS } from '~/utils/policyLevels'

/** The days and fees of a policy, to try others. */
const form = defineModel<PolicyForm>({ required: true })
const setFee = (n: number, value: number | null) => {
  const { fee } = form.value.levels[n]!
  if (value === null) delete fee.EUR
  else fee.EUR = value
}
const drop = (n: number) => form.value.levels.splice(n, 1)
function add(): void {
  const last = form.value.levels.at(-1)!
  form.value.levels.push({ ...structuredClone(toRaw(last)), days: last.days + 14 })
}
</script>

<template>
  <table class="grid-table max-w-[760px]" aria-label="Levels to try">
    <thead>
      <tr>
        <th>Level</th>
        <th v-for="d in LEVEL_DAYS" :key="d.of">{{ d.label }}</th>
        <th>Fee, EUR</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, n) in form.levels" :key="n">
        <td>{{ n + 1 }}</td>
        <td v-for="d in LEVEL_DAYS" :key="d.of">
          <input
            v-model.number="l[d.of]"
            type="number"
            :min="d.least"
            class="field w-16"
            :aria-label="`${d.label}, level ${n + 1}`"
          />
        </td>
        <td>
          <MoneyField
            :model-value="l.fee.EUR ?? null"
            currency="EUR"
            :label="`Fee in EUR, level ${n + 1}`"
            placeholder="no fee"
            @update:model-value="v => setFee(n, v)"
          />
        </td>
        <td>
          <button v-if="form.levels.length > 1" type="button" class="hint makes" @click="drop(n)">
            without it
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <p class="mt-1">
    <button v-if="form.levels.length < 9" type="button" class="plain" @click="add">Another level</button>
  </p>
</template>
