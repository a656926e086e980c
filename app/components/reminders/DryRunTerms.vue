<script setup lang="ts">
import { toRaw } from 'vue'
import type { PolicyForm } from '~~/contract/reminders'

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
        <th>Days late</th>
        <th>Since the notice before</th>
        <th>Payable within</th>
        <th>Fee, EUR</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, n) in form.levels" :key="n">
        <td>{{ n + 1 }}</td>
        <td>
          <input
            v-model.number="l.days"
            type="number"
            min="1"
            class="field w-16"
            :aria-label="`Days late, level ${n + 1}`"
          />
        </td>
        <td>
          <input
            v-model.number="l.sincePrevious"
            type="number"
            min="0"
            class="field w-16"
            :aria-label="`Days since the notice before, level ${n + 1}`"
          />
        </td>
        <td>
          <input
            v-model.number="l.deadlineDays"
            type="number"
            min="1"
            class="field w-16"
            :aria-label="`Payable within days, level ${n + 1}`"
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
