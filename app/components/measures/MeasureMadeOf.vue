<script setup lang="ts">
import { computed } from 'vue'
import type { MeasuredPoint } from '~~/contract/measures'
import { MEASURES, PARTS, type Measure, type Part } from '~~/core/measures'
import { dateText, plural } from '~/utils/format'

/** What a measure of a day is made of: its definition, and each of its parts with a way to the items. */
const props = defineProps<{ measure: Measure; point: MeasuredPoint; base: string; chosen: Part | null }>()
const emit = defineEmits<{ choose: [Part] }>()
const row = computed(() => MEASURES[props.measure])
const needsPeriod = computed(() => row.value.parts.some(p => p === 'sales' || p === 'paid'))
/** Months as the count-back takes them off: whole ones, then a share. */
const months = computed(() => {
  if (props.measure !== 'countBack') return []
  let left = props.point.parts.receivables
  return props.point.parts.months.map((m, n) => {
    const sales = Math.max(0, m.sales)
    const taken = Math.min(sales, left)
    left -= taken
    const days = taken === sales ? m.days : (m.days * taken) / sales
    return { n, sales: m.sales, taken, days: Math.round(days * 10) / 10 }
  })
})
</script>

<template>
  <div>
    <p>{{ row.definition }}</p>
    <p class="hint mb-2">
      = {{ row.formula
      }}<template v-if="needsPeriod"
        >; {{ plural(point.parts.days, 'day') }} after {{ dateText(point.from) }}</template
      >
    </p>
    <table class="grid-table flush" data-test="made-of">
      <tbody>
        <tr v-for="p in row.parts" :key="p" :class="chosen === p ? 'on' : ''">
          <td class="w-full !pl-2">{{ PARTS[p] }}</td>
          <td class="num">
            <button class="makes" @click="emit('choose', p)">
              <Figure :amount="point.parts[p]" :currency="base" zero />
            </button>
          </td>
        </tr>
        <tr v-for="m in months" :key="m.n">
          <td class="!pl-2">
            {{ m.n === 0 ? 'less sales of the newest month' : `less sales of the month ${m.n} before it`
            }}<span class="aside ml-1.5"
              >of <Figure :amount="m.sales" :currency="base" whole zero />, {{ m.days }} days</span
            >
          </td>
          <td class="num"><Figure :amount="-m.taken" :currency="base" zero /></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
