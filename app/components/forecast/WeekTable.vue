<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ForecastAnswer, WhatIfBody } from '~~/contract/forecast'
import { SOURCES, type Source } from '~~/core/forecast'
import { useKeys } from '~/composables/keys'
import { call, problemText } from '~/utils/api'
import { amountText, plural, shortDay, wholeText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Sources by weeks or by days: each figure opens down to the documents it is made of. */
const props = defineProps<{
  forecast: ForecastAnswer
  query: { asOf?: string; weeks: number; currency?: string }
  /** What is otherwise in what is shown; null: nothing. */
  whatIf: WhatIfBody | null
}>()
/** Whether some figure is open: it needs the room of the picture. */
const emit = defineEmits<{ opened: [isOpen: boolean] }>()
type Part = Awaited<ReturnType<typeof fetchPart>>
type Band = ForecastAnswer['weeks'][number]
const DAYS_SHOWN = 14
const opened = ref<{ source: Source; place: number } | null>(null)
const part = ref<Part | null>(null)
const trouble = ref('')
const isDaily = computed(() => props.forecast.days.length > 0)
/** What is only unlikely is worth opening too. */
const isSome = (w: Band): boolean => w.mean !== 0 || w.p10 !== 0 || w.p90 !== 0
/** The first day that is shown. */
const first = ref(0)
const shownOf = (list: readonly Band[]): readonly Band[] =>
  isDaily.value ? list.slice(first.value, first.value + DAYS_SHOWN) : list
const columns = computed(() => shownOf(isDaily.value ? props.forecast.days : props.forecast.weeks))
/** Sources that bring or take anything at all. */
const rows = computed(() => {
  const all = isDaily.value
    ? props.forecast.daysBySource.map(({ source, days }) => ({ source, bands: days }))
    : props.forecast.bySource.map(({ source, weeks }) => ({ source, bands: weeks }))
  return all.filter(s => s.bands.some(isSome)).map(({ source, bands }) => ({ source, bands: shownOf(bands) }))
})
function go(days: number): void {
  const most = Math.max(0, props.forecast.days.length - DAYS_SHOWN)
  first.value = Math.max(0, Math.min(most, first.value + days))
  opened.value = null
}
function fetchPart(source: Source, place: number) {
  const span = isDaily.value ? { day: first.value + place } : { week: place }
  const query = { ...props.query, source, ...span }
  return props.whatIf
    ? call(contract.forecast.whatIfPart, { body: { query, whatIf: props.whatIf } })
    : call(contract.forecast.part, { query })
}
async function open(source: Source, place: number): Promise<void> {
  if (opened.value?.source === source && opened.value.place === place) {
    opened.value = null
    return
  }
  opened.value = { source, place }
  part.value = null
  try {
    await fill(part, () => fetchPart(source, place))
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
watch(opened, () => emit('opened', opened.value !== null))
watch(
  () => props.forecast,
  () => {
    opened.value = null
    first.value = 0
  },
)
/** Whole units of the currency: a table of thirteen weeks has no room for cents, the drawer tells them. */
const whole = (amount: number): string => wholeText(amount, props.forecast.currency)
const sumOf = (bands: readonly Band[]): number => bands.reduce((sum, w) => sum + w.mean, 0)
const spanText = (place: number): string =>
  isDaily.value
    ? shortDay(columns.value[place - 1]!.to)
    : `week until ${shortDay(columns.value[place - 1]!.to)}`
useKeys([
  { key: ']', label: 'Two weeks on', when: () => isDaily.value, run: () => go(DAYS_SHOWN) },
  { key: '[', label: 'Two weeks back', when: () => isDaily.value, run: () => go(-DAYS_SHOWN) },
])
</script>

<template>
  <p v-if="isDaily" class="flex flex-none items-baseline gap-4 px-[18px]">
    <button class="plain" :disabled="first === 0" @click="go(-DAYS_SHOWN)">
      Two weeks back <kbd>[</kbd>
    </button>
    <button class="plain" :disabled="first + DAYS_SHOWN >= forecast.days.length" @click="go(DAYS_SHOWN)">
      Two weeks on <kbd>]</kbd>
    </button>
  </p>
  <div class="min-h-0 flex-1 overflow-auto" tabindex="0" aria-label="Weeks and sources">
    <table class="w-full text-[12.5px]" aria-label="What comes, by source and week">
      <thead class="sticky top-0 z-10 bg-paper">
        <tr>
          <th class="sticky left-0 bg-paper py-1 pl-[18px] pr-1 text-left font-normal text-soft">
            {{ forecast.currency }}, {{ isDaily ? 'on' : 'until' }}
          </th>
          <th v-for="w in columns" :key="w.to" class="num px-1 font-normal text-soft whitespace-nowrap">
            {{ shortDay(w.to) }}
          </th>
          <th class="num pl-1 pr-[18px] font-normal text-soft">{{ isDaily ? 'Two weeks' : 'All' }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in rows" :key="s.source">
          <th
            class="sticky left-0 bg-paper py-0.5 pl-[18px] pr-1 text-left font-normal whitespace-nowrap"
            scope="row"
          >
            <span :title="SOURCES[s.source].sure">{{ SOURCES[s.source].label }}</span>
          </th>
          <td v-for="(w, n) in s.bands" :key="n" class="num">
            <button
              v-if="isSome(w)"
              class="makes num inline-block min-h-6 min-w-6 px-0.5 leading-6"
              :class="opened?.source === s.source && opened.place === n + 1 ? 'font-semibold' : ''"
              :title="`${whole(w.p10)} to ${whole(w.p90)} in four of five cases, the middle ${whole(w.p50)}`"
              :aria-label="`${SOURCES[s.source].label} until ${shortDay(w.to)}: ${whole(w.mean)}`"
              @click="open(s.source, n + 1)"
            >
              {{ whole(w.mean) }}
            </button>
            <span v-else class="text-faint">·</span>
          </td>
          <td class="num pl-1 pr-[18px]">{{ whole(sumOf(s.bands)) }}</td>
        </tr>
      </tbody>
      <tfoot class="border-t border-ink">
        <tr
          v-for="(label, q) in {
            mean: 'On average',
            p10: 'one in ten below',
            p50: 'one in two below',
            p90: 'one in ten above',
          }"
          :key="q"
        >
          <th
            class="sticky left-0 bg-paper py-0.5 pl-[18px] pr-1 text-left"
            :class="q === 'mean' ? 'font-semibold' : 'font-normal text-soft'"
            scope="row"
          >
            {{ label }}
          </th>
          <td
            v-for="w in columns"
            :key="w.to"
            class="num px-0.5"
            :class="q === 'mean' ? 'font-semibold' : 'text-soft'"
          >
            {{ whole(w[q]) }}
          </td>
          <td class="num pl-1 pr-[18px] font-semibold">
            {{ q === 'mean' ? whole(sumOf(columns)) : '' }}
          </td>
        </tr>
      </tfoot>
    </table>
  </div>
  <section
    v-if="opened"
    class="max-h-[50%] flex-none overflow-auto border-t-2 border-ink bg-sheet px-[18px] py-2"
    aria-label="What it is made of"
    @keydown.esc="opened = null"
  >
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
    <p v-else-if="!part" class="hint">It is worked out item by item.</p>
    <template v-else>
      <p class="flex items-baseline gap-4">
        <b class="font-semibold">{{ SOURCES[opened.source].label }}, {{ spanText(opened.place) }}</b
        ><span v-if="part.items.length" class="text-soft"
          >{{ plural(part.count, 'item') }} may come, on average
          {{ wholeText(part.expected, forecast.currency, true) }}</span
        ><button class="hint" aria-label="Close" @click="opened = null">✕</button>
      </p>
      <table v-if="part.items.length" class="w-full">
        <thead>
          <tr class="text-soft">
            <th class="pr-3 text-left font-normal">Item</th>
            <th class="pr-3 text-left font-normal">Customer</th>
            <th class="pr-3 text-left font-normal">{{ opened.source === 'orders' ? 'Ordered' : 'Due' }}</th>
            <th class="pr-3 text-left font-normal">Half by</th>
            <th class="pr-3 text-left font-normal">One in ten by, nine in ten by</th>
            <th class="num pr-3 font-normal">Open</th>
            <th class="num pr-3 font-normal">Chance {{ isDaily ? 'on this day' : 'in this week' }}</th>
            <th class="num font-normal">On average</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(i, n) in part.items" :key="n">
            <td class="pr-3">
              <span v-if="i.source === 'orders'">{{ i.number }}</span><NuxtLink
                v-else
                class="makes"
                :to="`/accounts/${i.customer.number}?find=${i.number}&state=all`"
                >{{ i.number }}</NuxtLink
              >
            </td>
            <td class="max-w-[220px] truncate pr-3">{{ i.customer.name }}</td>
            <td class="pr-3">{{ shortDay(i.due) }}</td>
            <td class="pr-3">{{ i.p50 ? shortDay(i.p50) : 'later' }}</td>
            <td class="pr-3 text-soft">
              {{ i.p10 ? shortDay(i.p10) : 'later' }}, {{ i.p90 ? shortDay(i.p90) : 'later' }}
            </td>
            <td class="num pr-3"><Figure :amount="i.open" :currency="forecast.currency" /></td>
            <td class="num pr-3">{{ Math.round(i.chance * 100) }} %</td>
            <td class="num"><Figure :amount="i.expected" :currency="forecast.currency" /></td>
          </tr>
        </tbody>
      </table>
      <p v-for="(m, n) in part.planned" :key="n" class="flex gap-4">
        <span class="w-[70px]">{{ shortDay(m.date) }}</span><span class="min-w-0 flex-1 truncate">{{
          m.name
        }}</span
        ><span v-if="m.chance < 1" class="text-soft">{{ Math.round(m.chance * 100) }} %</span
        ><b class="num font-semibold">{{ amountText(m.amount, m.currency, true) }}</b>
      </p>
      <p v-if="opened.source === 'sales'" class="text-soft">
        Sales that are not made yet: each week like one of the last thirteen, less what will be invoiced of
        orders, paid as late as sales were paid before. The least sure part of the forecast.
      </p>
    </template>
  </section>
</template>
