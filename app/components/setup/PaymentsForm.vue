<script setup lang="ts">
import { computed, reactive } from 'vue'
import { RETURN_ACTIONS, RETURN_REASONS, type ReturnAction } from '~~/core/payments'
import { useSettingsForm } from '~/composables/settingsForm'

/** How the house pays back and collects. */
const { settings: s, may, trouble, save } = useSettingsForm()
const p = s.paymentPolicy
const form = reactive({
  ...p,
  least: p.least as number | null,
  returnFee: p.returnFee as number | null,
  lapse: { ...p.lapse, most: p.lapse.most as number | null },
})
const actions = reactive<Record<string, ReturnAction | ''>>({ ...p.returnActions })
const countries = reactive(Object.entries(p.lapse.byCountry).map(([country, rule]) => ({ country, ...rule })))
const WEEKDAYS = ['', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday']
const body = computed(() => ({
  paymentPolicy: {
    ...form,
    least: form.least ?? 0,
    returnFee: form.returnFee ?? 0,
    returnActions: Object.fromEntries(
      Object.entries(actions).filter((a): a is [string, ReturnAction] => a[1] !== ''),
    ),
    lapse: {
      days: form.lapse.days,
      most: form.lapse.most ?? 0,
      byCountry: Object.fromEntries(
        countries
          .filter(c => c.country)
          .map(({ country, days, to }) => [country.trim().toUpperCase(), { days, to }]),
      ),
    },
  },
}))
</script>

<template>
  <form class="setup-form" @submit.prevent="save(body)">
    <label class="label" for="creditor">Creditor identifier</label
    ><input
      id="creditor"
      v-model="form.creditorId"
      class="field w-[260px]"
      placeholder="IE00ZZZ000000"
      :disabled="!may"
    />
    <label class="label" for="pain1">Transfers in euro as</label
    ><select id="pain1" v-model="form.transferFormat" class="field w-[180px]" :disabled="!may">
      <option value="pain.001.001.09">pain.001.001.09</option>
      <option value="pain.001.001.03">pain.001.001.03</option>
    </select>
    <label class="label" for="pain8">Direct debits as</label
    ><select id="pain8" v-model="form.debitFormat" class="field w-[180px]" :disabled="!may">
      <option value="pain.008.001.08">pain.008.001.08</option>
      <option value="pain.008.001.02">pain.008.001.02</option>
    </select>
    <label class="label" for="notice">Advance notice</label
    ><span
      ><input
        id="notice"
        v-model.number="form.noticeDays"
        type="number"
        min="1"
        max="60"
        class="field w-14"
        :disabled="!may"
      />
      days before a collection, unless a mandate says otherwise</span
    >
    <span class="label">Collected</span
    ><span class="flex flex-wrap gap-x-5"
      ><label class="flex items-center gap-1.5"
        ><input v-model="form.creditsFirst" type="checkbox" class="tick" :disabled="!may" /> less credit on
        the account</label
      ><label class="flex items-center gap-1.5"
        ><input v-model="form.withCharges" type="checkbox" class="tick" :disabled="!may" /> with fees and
        interest</label
      ></span
    >
    <label class="label" for="least">Not less than, EUR</label
    ><MoneyField id="least" v-model="form.least" class="w-[140px]" currency="EUR" label="Not less than" />
    <label class="label" for="return-fee">Charged on for a return, EUR</label
    ><MoneyField
      id="return-fee"
      v-model="form.returnFee"
      class="w-[140px]"
      currency="EUR"
      label="Charged on for a return"
    />
    <label class="label" for="again">Presented again</label
    ><span
      ><input
        id="again"
        v-model.number="form.againTimes"
        type="number"
        min="0"
        max="3"
        class="field w-14"
        :disabled="!may"
      />
      times, on
      <select v-model="form.againWeekday" class="field" aria-label="Weekday" :disabled="!may">
        <option :value="null">any day</option>
        <option v-for="n in 5" :key="n" :value="n">{{ WEEKDAYS[n] }}</option>
      </select></span
    >
    <span class="label self-start">After a return</span>
    <div class="grid max-w-[520px] grid-cols-[1fr_auto] gap-x-4 gap-y-1">
      <template v-for="(reason, code) in RETURN_REASONS" :key="code"
        ><label class="text-soft" :for="`after-${code}`">{{ code }} {{ reason.label }}</label
        ><select
          :id="`after-${code}`"
          class="field"
          :value="actions[code] ?? ''"
          :disabled="!may"
          @change="actions[code] = ($event.target as HTMLSelectElement).value as ReturnAction | ''"
        >
          <option value="">{{ RETURN_ACTIONS[reason.action] }}, as usual</option>
          <option v-for="(label, action) in RETURN_ACTIONS" :key="action" :value="action">{{ label }}</option>
        </select></template
      >
    </div>
    <span class="label">Cheques</span
    ><span class="flex flex-wrap items-baseline gap-x-5"
      ><span
        >told of when not cashed after
        <input
          v-model.number="form.chequeDays"
          type="number"
          min="1"
          max="365"
          class="field w-16"
          aria-label="Days until a cheque is told of"
          :disabled="!may"
        />
        days</span
      ><label class="flex items-center gap-1.5"
        ><input v-model="form.chequeDuplicates" type="checkbox" class="tick" :disabled="!may" /> numbers may
        come again</label
      ></span
    >
    <label class="label" for="lapse-days">Unclaimed credits</label
    ><span class="flex flex-wrap items-baseline gap-2"
      >may be taken off after
      <input
        id="lapse-days"
        v-model.number="form.lapse.days"
        type="number"
        min="30"
        class="field w-20"
        :disabled="!may"
      />
      days, up to
      <MoneyField
        v-model="form.lapse.most"
        class="w-[110px]"
        :currency="s.base"
        label="Unclaimed credits up to"
      />
      {{ s.base }}</span
    >
    <span class="label self-start">By country</span>
    <div class="flex flex-col gap-1">
      <span v-for="(c, n) in countries" :key="n" class="flex items-baseline gap-2"
        ><input v-model="c.country" class="field w-12" maxlength="2" aria-label="Country" :disabled="!may" />
        after
        <input
          v-model.number="c.days"
          type="number"
          min="30"
          class="field w-20"
          aria-label="Days"
          :disabled="!may"
        />
        days
        <select v-model="c.to" class="field" aria-label="To" :disabled="!may">
          <option value="income">to income</option>
          <option value="owed">owed further</option>
        </select>
        <button v-if="may" type="button" class="plain" @click="countries.splice(n, 1)">Remove</button></span
      >
      <button
        v-if="may"
        type="button"
        class="plain self-start"
        @click="countries.push({ country: '', days: form.lapse.days, to: 'owed' })"
      >
        A rule for a country
      </button>
    </div>
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
