<script setup lang="ts">
import { VueDatePicker } from '@vuepic/vue-datepicker'
import '@vuepic/vue-datepicker/dist/main.css'
import { computed } from 'vue'
import { isIsoDate } from '~~/core/calendar'
import { dateText } from '~/utils/format'

/** A date, typed ("14 Sep 2026", "2026-09-14", "14.9.", "-7") or picked; arrow keys work in the calendar. */
const props = defineProps<{
  modelValue: string
  label: string
  today: string
  max?: string
  min?: string
  id?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [string] }>()
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const toDate = (iso: string) => (isIsoDate(iso) ? new Date(`${iso}T12:00:00`) : null)
const toIso = (d: Date) =>
  `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`

function read(text: string): Date | null {
  const s = text.trim().toLowerCase()
  const year = Number(props.today.slice(0, 4))
  const make = (y: number, m: number, d: number) =>
    toDate(`${y < 100 ? 2000 + y : y}-${String(m).padStart(2, '0')}-${String(d).padStart(2, '0')}`)
  if (isIsoDate(s)) return toDate(s)
  if (s === 'today') return toDate(props.today)
  const shift = /^[+-]\d{1,4}$/.exec(s)
  if (shift) {
    const date = toDate(props.today)!
    date.setDate(date.getDate() + Number(s))
    return date
  }
  const words = /^(\d{1,2})\s*([a-z]{3})[a-z]*\s*(\d{2,4})?$/.exec(s)
  if (words && MONTHS.includes(words[2]!))
    return make(Number(words[3] ?? year), MONTHS.indexOf(words[2]!) + 1, Number(words[1]))
  const figures = /^(\d{1,2})[./](\d{1,2})[./]?(\d{2,4})?$/.exec(s)
  return figures ? make(Number(figures[3] ?? year), Number(figures[2]), Number(figures[1])) : null
}
const value = computed({
  get: () => toDate(props.modelValue),
  set: (date: Date | null) => {
    if (date) emit('update:modelValue', toIso(date))
  },
})
</script>

<template>
  <VueDatePicker
    v-model="value"
    class="!w-[104px]"
    :time-config="{ enableTimePicker: false }"
    :formats="{ input: (d: Date) => dateText(toIso(d)) }"
    auto-apply
    :input-attrs="{ clearable: false, hideInputIcon: true, id }"
    :text-input="{ format: read, enterSubmit: true, tabSubmit: true, openMenu: 'open', selectOnFocus: true }"
    :week-start="1"
    :teleport="true"
    :min-date="min ? toDate(min)! : undefined"
    :max-date="max ? toDate(max)! : undefined"
    :aria-labels="{ input: label }"
    :config="{ escClose: true, tabOutClosesMenu: true }"
  />
</template>
