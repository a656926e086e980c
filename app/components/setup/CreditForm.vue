<script setup lang="ts">
import { reactive, ref } from 'vue'
import { SIGN_OFF_KINDS, SIGNED, type Signed, type Thresholds } from '~~/core/signOff'
import { useSettingsForm } from '~/composables/settingsForm'

const { settings: s, may, trouble, save } = useSettingsForm()
const rules = reactive({ ...s.holdRules, overdueAmount: s.holdRules.overdueAmount as number | null })
const graceDays = ref(s.promiseGraceDays)
/** Kinds that are signed above an amount; the others always. */
const KINDS = SIGNED.filter(kind => SIGN_OFF_KINDS[kind].measure !== 'always')
const rows = reactive(
  KINDS.flatMap(kind =>
    Object.entries(s.signOff[kind] ?? {}).map(([currency, amount]) => ({
      kind,
      currency,
      amount: amount as number | null,
    })),
  ),
)
for (const kind of KINDS)
  if (!rows.some(r => r.kind === kind)) rows.push({ kind, currency: s.base, amount: 0 })
const currencies = [...new Set([s.base, ...s.currencies])]
function thresholds(): Thresholds {
  const all: Partial<Record<Signed, Record<string, number>>> = {}
  for (const { kind, currency, amount } of rows) all[kind] = { ...all[kind], [currency]: amount ?? 0 }
  return all
}
/** Off when it is empty. */
const orOff = (value: unknown) =>
  value === '' || value === null || value === undefined ? null : Number(value)
const saveAll = () =>
  save({
    holdRules: {
      overLimitPercent: orOff(rules.overLimitPercent),
      overdueDays: orOff(rules.overdueDays),
      overdueAmount: rules.overdueAmount ?? 0,
      reminderLevel: orOff(rules.reminderLevel),
      expiredLimit: rules.expiredLimit,
      insuredExceeded: rules.insuredExceeded,
      brokenPromiseDays: orOff(rules.brokenPromiseDays),
    },
    promiseGraceDays: graceDays.value,
    signOff: thresholds(),
  })
</script>

<template>
  <form class="setup-form" @submit.prevent="saveAll">
    <span class="label">An account is held</span
    ><span class="hint">a field that is empty turns its rule off</span>
    <label class="label" for="over">over its limit by more than</label
    ><span
      ><input
        id="over"
        v-model="rules.overLimitPercent"
        type="number"
        min="0"
        max="1000"
        class="field w-16"
        :disabled="!may"
      />
      %</span
    >
    <label class="label" for="overdue-days">overdue by more than</label
    ><span class="flex items-baseline gap-2"
      ><input
        id="overdue-days"
        v-model="rules.overdueDays"
        type="number"
        min="0"
        max="3650"
        class="field w-16"
        :disabled="!may"
      />
      days, above
      <MoneyField v-model="rules.overdueAmount" :currency="s.base" label="Above this amount" />
      {{ s.base }}</span
    >
    <label class="label" for="level">from reminder level</label
    ><input
      id="level"
      v-model="rules.reminderLevel"
      type="number"
      min="1"
      max="20"
      class="field w-16"
      :disabled="!may"
    />
    <label class="label" for="broken">a promise was broken within</label
    ><span
      ><input
        id="broken"
        v-model="rules.brokenPromiseDays"
        type="number"
        min="0"
        max="3650"
        class="field w-16"
        :disabled="!may"
      />
      days and is not paid</span
    >
    <label class="label" for="grace">A promise is kept within</label
    ><span
      ><input
        id="grace"
        v-model.number="graceDays"
        type="number"
        min="0"
        max="30"
        class="field w-16"
        :disabled="!may"
      />
      bank working days after its date</span
    >
    <span class="label">and</span
    ><span class="ticks"
      ><label class="flex items-center gap-1.5"
        ><input v-model="rules.expiredLimit" type="checkbox" class="tick" :disabled="!may" /> when its limit
        is out of its dates</label
      ><label class="flex items-center gap-1.5"
        ><input v-model="rules.insuredExceeded" type="checkbox" class="tick" :disabled="!may" /> when it owes
        more than is insured</label
      ></span
    >
    <span class="label">A second person signs</span>
    <div>
      <p v-for="(r, i) in rows" :key="i" class="mb-1 flex items-baseline gap-3">
        <select v-model="r.kind" class="field" :aria-label="`What, ${i + 1}`" :disabled="!may">
          <option v-for="k in KINDS" :key="k" :value="k">{{ SIGN_OFF_KINDS[k].label }}</option></select
        >above
        <MoneyField v-model="r.amount" :currency="r.currency" :label="`Threshold ${i + 1}`" />
        <select
          v-model="r.currency"
          class="field"
          :aria-label="`Currency of threshold ${i + 1}`"
          :disabled="!may"
        >
          <option v-for="c in currencies" :key="c">{{ c }}</option></select
        ><span class="hint">{{ SIGN_OFF_KINDS[r.kind].measure }}</span>
        <button
          v-if="may && rows.filter(x => x.kind === r.kind).length > 1"
          type="button"
          class="plain !py-0"
          @click="rows.splice(i, 1)"
        >
          remove
        </button>
      </p>
      <button
        v-if="may"
        type="button"
        class="plain"
        @click="rows.push({ kind: 'limit', currency: s.base, amount: 0 })"
      >
        Another currency
      </button>
      <p class="hint">
        Other currencies are measured in {{ s.base }}. Changed bank details are always looked at by a second
        person.
      </p>
    </div>
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
