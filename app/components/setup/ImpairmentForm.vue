<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { useSettingsForm } from '~/composables/settingsForm'

/** Small balances, when the tax of a lost debt may be claimed back, and what is set aside. */
const { settings: s, may, trouble, save } = useSettingsForm()
const p = s.impairmentPolicy
const form = reactive({ smallMost: p.smallMost as number | null, smallDays: p.smallDays })
interface Row {
  country: string
  days: number | ''
  reminded: number
  insolvency: boolean
}
const rowOf = (country: string, rule: (typeof p.relief)['rest']): Row => ({
  country,
  days: rule?.days ?? '',
  reminded: rule?.reminded ?? 0,
  insolvency: rule?.insolvency ?? false,
})
const ruleOf = ({ days, reminded, insolvency }: Row) =>
  days === '' && !insolvency ? null : { days: days === '' ? null : days, reminded, insolvency }
const rest = reactive(rowOf('', p.relief.rest))
const countries = reactive(Object.entries(p.relief.byCountry).map(([country, rule]) => rowOf(country, rule)))
const all = computed(() => [rest, ...countries])
const matrix = ref<{ read: () => typeof p.allowance } | null>(null)
const body = () => ({
  impairmentPolicy: {
    allowance: matrix.value?.read() ?? p.allowance,
    smallMost: form.smallMost ?? 0,
    smallDays: form.smallDays,
    relief: {
      rest: ruleOf(rest),
      byCountry: Object.fromEntries(
        countries.filter(c => c.country).map(c => [c.country.trim().toUpperCase(), ruleOf(c)]),
      ),
    },
  },
})
</script>

<template>
  <form class="setup-form" @submit.prevent="save(body())">
    <label class="label" for="small-days">Small balances</label
    ><span class="flex flex-wrap items-baseline gap-2"
      >of
      <MoneyField
        v-model="form.smallMost"
        class="w-[110px]"
        :currency="s.base"
        label="Small balances up to"
        :disabled="!may"
      />
      {{ s.base }} or less,
      <input
        id="small-days"
        v-model.number="form.smallDays"
        type="number"
        min="0"
        class="field w-20"
        :disabled="!may"
      />
      days late</span
    >
    <span class="label self-start">Tax may be claimed back</span>
    <div class="flex flex-col gap-1">
      <span v-for="(c, n) in all" :key="n" class="flex flex-wrap items-baseline gap-2"
        ><b v-if="n === 0" class="w-[104px] font-semibold">Elsewhere</b
        ><input
          v-else
          v-model="c.country"
          class="field w-12"
          maxlength="2"
          aria-label="Country"
          :disabled="!may"
        />
        <input
          v-model.number="c.days"
          type="number"
          min="0"
          class="field w-20"
          placeholder="never"
          aria-label="Days after it was due"
          :disabled="!may"
        />
        days after it was due, with a reminder of level
        <input
          v-model.number="c.reminded"
          type="number"
          min="0"
          max="20"
          class="field w-14"
          aria-label="Level of a reminder"
          :disabled="!may"
        />
        <label class="inline-flex items-baseline gap-1.5"
          ><input v-model="c.insolvency" type="checkbox" class="tick self-center" :disabled="!may" /> or in an
          insolvency</label
        >
        <button v-if="may && n > 0" type="button" class="plain" @click="countries.splice(n - 1, 1)">
          Remove
        </button></span
      >
      <button
        v-if="may"
        type="button"
        class="plain self-start"
        @click="countries.push({ country: '', days: '', reminded: 0, insolvency: true })"
      >
        A rule for a country
      </button>
      <p class="hint">What ships is from memory: have your tax adviser confirm it.</p>
    </div>
    <span class="label self-start">Set aside for losses</span>
    <LossMatrix ref="matrix" :policy="p.allowance" :may="may" />
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
