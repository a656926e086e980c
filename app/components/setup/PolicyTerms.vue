<script setup lang="ts">
import { ref } from 'vue'
import { CONVENTIONS } from '~~/core/interest'
import { LETTER_CUTS } from '~~/core/reminders'
import type { PolicyForm } from '~~/contract/reminders'

/** What a policy says of all its levels: how letters are cut, grace, late interest, charges. */
const form = defineModel<PolicyForm>({ required: true })
defineProps<{ disabled: boolean }>()

const FRESH: NonNullable<PolicyForm['interest']> = {
  convention: 'actual/365',
  percent: '8',
  reference: null,
  basis: { otherwise: 'floating', byCountry: {} },
  minimum: {},
}
const locked = ref(Object.keys(form.value.interest?.basis.byCountry ?? {}).join(' '))
function setInterest(is: boolean): void {
  form.value.interest = is ? structuredClone(FRESH) : null
  if (!is) for (const level of form.value.levels) level.interest = false
}
/** Countries whose rate stays as it was when interest began. */
function setLocked(text: string): void {
  locked.value = text
  const codes = text.toUpperCase().match(/\b[A-Z]{2}\b/g) ?? []
  form.value.interest!.basis.byCountry = Object.fromEntries(codes.map(c => [c, 'locked' as const]))
}
</script>

<template>
  <div class="grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-1.5 border-t border-rule py-3">
    <label class="label" for="letters-cut">Letters</label>
    <select id="letters-cut" v-model="form.letters" class="field w-[330px]" :disabled="disabled">
      <option v-for="(label, key) in LETTER_CUTS" :key="key" :value="key">{{ label }}</option>
    </select>
    <label class="label" for="grace-days">Grace</label>
    <span
      ><input
        id="grace-days"
        v-model.number="form.graceDays"
        type="number"
        min="0"
        max="60"
        class="field w-16"
        :disabled="disabled"
      />
      <span class="hint ml-2"
        >days after the due date, and after the deadline of the notice before, that are let pass</span
      ></span
    >
    <label class="label" for="fee-tax">Tax on fees</label>
    <span
      ><input
        id="fee-tax"
        v-model="form.feeTax"
        class="field w-16"
        inputmode="decimal"
        :disabled="disabled"
      />
      <span class="hint ml-2">percent on top; interest bears none</span></span
    >
    <span class="label">Fees and interest</span>
    <span class="flex gap-5"
      ><label class="flex items-center gap-1.5"
        ><input v-model="form.chargesCause" type="checkbox" class="tick" :disabled="disabled" /> are reminded
        of by themselves</label
      ><label class="flex items-center gap-1.5"
        ><input v-model="form.chargesBearInterest" type="checkbox" class="tick" :disabled="disabled" /> bear
        interest</label
      ></span
    >
    <label class="label" for="has-interest">Late interest</label>
    <span class="flex flex-wrap items-baseline gap-x-3 gap-y-1.5"
      ><input
        id="has-interest"
        type="checkbox"
        class="tick"
        :checked="form.interest !== null"
        :disabled="disabled"
        @change="setInterest(($event.target as HTMLInputElement).checked)" /><template v-if="form.interest"
        ><input
          v-model="form.interest.percent"
          class="field w-16"
          inputmode="decimal"
          aria-label="Percent a year"
          :disabled="disabled" /><span>% a year above</span
        ><input
          :value="form.interest.reference ?? ''"
          class="field w-20"
          placeholder="nothing"
          aria-label="Reference rate, empty for a fixed rate"
          title="a rate of the table below, such as ECB; empty: a fixed rate"
          :disabled="disabled"
          @input="
            form.interest.reference = ($event.target as HTMLInputElement).value.trim() || null
          " /><select
          v-model="form.interest.convention"
          class="field"
          aria-label="How days are counted"
          :disabled="disabled"
        >
          <option v-for="(label, key) in CONVENTIONS" :key="key" :value="key">{{ label }}</option></select
        ><select
          v-model="form.interest.basis.otherwise"
          class="field"
          aria-label="Floating or locked"
          :disabled="disabled"
        >
          <option value="floating">each day at the rate of that day</option>
          <option value="locked">at the rate of when it begins</option></select
        ><span class="hint">locked in</span
        ><input
          :value="locked"
          class="field w-20"
          placeholder="GB"
          aria-label="Countries where the rate is locked"
          :disabled="disabled"
          @change="setLocked(($event.target as HTMLInputElement).value)" /><span class="hint">not below</span
        ><MoneyField
          :model-value="form.interest.minimum.EUR ?? null"
          currency="EUR"
          label="Least interest that is claimed, EUR"
          placeholder="EUR, any"
          @update:model-value="
            v => {
              if (v === null) delete form.interest!.minimum.EUR
              else form.interest!.minimum.EUR = v
            }
          " /></template
    ></span>
  </div>
</template>
