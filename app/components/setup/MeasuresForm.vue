<script setup lang="ts">
import { reactive } from 'vue'
import { MEASURE_NAMES, MEASURES, type Measure } from '~~/core/measures'
import { useSettingsForm } from '~/composables/settingsForm'

/** What the team aims at. Of overdue the target stands with the aging. */
type Aimed = Exclude<Measure, 'overdue'>
const NAMES = MEASURE_NAMES.filter((name): name is Aimed => name !== 'overdue')
const { settings: s, may, trouble, save } = useSettingsForm()
const form = reactive<Partial<Record<Aimed, number | null | ''>>>(
  Object.fromEntries(NAMES.map(name => [name, s.measureTargets[name] ?? null])),
)
const targets = () =>
  Object.fromEntries(
    NAMES.flatMap(name => {
      const value = form[name]
      return value === null || value === undefined || value === '' ? [] : [[name, value]]
    }),
  )
</script>

<template>
  <form class="setup-form" @submit.prevent="save({ measureTargets: targets() })">
    <template v-for="name in NAMES" :key="name">
      <label class="label" :for="name">{{ MEASURES[name].label }}</label>
      <span
        ><MoneyField
          v-if="MEASURES[name].unit === 'money'"
          :id="name"
          :model-value="form[name] === '' ? null : (form[name] ?? null)"
          class="w-[140px]"
          :currency="s.base"
          :label="`Target: ${MEASURES[name].label}`"
          @update:model-value="value => (form[name] = value)"
        /><input
          v-else
          :id="name"
          v-model.number="form[name]"
          type="number"
          step="0.1"
          class="field w-[90px] text-right"
          :disabled="!may"
        />
        <span class="hint ml-2"
          >{{ MEASURES[name].unit === 'money' ? s.base : MEASURES[name].unit }},
          {{ MEASURES[name].better === 'less' ? 'at most' : 'at least' }}</span
        ></span
      >
    </template>
    <span /><button v-if="may" class="go justify-self-start">Save</button>
  </form>
  <p class="hint mt-2">Empty: no target. That of overdue stands under Aging.</p>
  <p v-if="trouble" class="wrong mt-2" role="alert">{{ trouble }}</p>
</template>
