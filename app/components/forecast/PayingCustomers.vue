<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ForecastAnswer, ForecastCustomerRow } from '~~/contract/forecast'
import { useDesk } from '~/stores/desk'
import { plural, proseText } from '~/utils/format'

/** What each customer is expected to pay, and why; those first who stopped paying as they used to. */
const props = defineProps<{
  forecast: ForecastAnswer
  loading: boolean
  query: Record<string, string | number | undefined>
}>()
const desk = useDesk()
const opened = ref<string | null>(null)
const onlyStopped = ref(false)
const stopped = computed(() => props.forecast.customers.filter(r => r.late !== null))
const rows = computed(() => (onlyStopped.value ? stopped.value : props.forecast.customers))
const total = (of: (r: ForecastCustomerRow) => number): number =>
  rows.value.reduce((sum, r) => sum + of(r), 0)
const currency = computed(() => props.forecast.currency)
</script>

<template>
  <div class="filters">
    <span v-if="stopped.length"
      ><b class="wrong font-semibold">{{ plural(stopped.length, 'customer') }}</b> stopped paying as they used
      to
      <label class="ml-3 inline-flex items-baseline gap-1.5"
        ><input v-model="onlyStopped" type="checkbox" class="tick self-center" /> only those</label
      ></span
    >
    <span v-else class="text-soft">Everybody pays about as usual.</span>
  </div>
  <SheetTable
    :columns="[
      { key: 'name', label: 'Customer', cut: true, width: 196 },
      { key: 'why', label: 'How it pays', cut: true },
      { key: 'open', label: 'Open', num: true, width: 112, gives: 2 },
      { key: 'soon', label: 'In four weeks', num: true, width: 112, gives: 1 },
      { key: 'expected', label: 'Expected', num: true, width: 112 },
    ]"
    :rows="rows"
    :row-key="r => r.number"
    :more="false"
    :loading="loading"
    :opened="opened"
    label="Customers"
    @cursor="r => desk.choose(r.number)"
    @open="r => (opened = opened === r.number ? null : r.number)"
  >
    <template #cell-name="{ row }"
      ><span class="name">{{ row.name }}</span></template
    >
    <template #cell-why="{ row }"
      ><span v-if="row.late" class="wrong">{{ proseText(row.late) }}</span
      ><span v-else class="text-soft">{{ row.why }}</span></template
    >
    <template #cell-open="{ row }"><Figure :amount="row.open" :currency="currency" /></template>
    <template #cell-soon="{ row }"
      ><Figure :amount="row.weeks.slice(0, 4).reduce((a, b) => a + b, 0)" :currency="currency"
    /></template>
    <template #cell-expected="{ row }"><Figure :amount="row.expected" :currency="currency" /></template>
    <template #under="{ row }"
      ><CustomerExpected :number="row.number" :currency="currency" :query="query"
    /></template>
    <template #foot="{ columns }"
      ><tr>
        <td v-for="c in columns" :key="c.key" :class="c.num ? 'num' : ''">
          <template v-if="c.key === 'name'">{{ plural(rows.length, 'customer') }}</template><Figure
            v-else-if="c.key === 'open'"
            :amount="total(r => r.open)"
            :currency="currency"
          /><Figure
            v-else-if="c.key === 'soon'"
            :amount="total(r => r.weeks.slice(0, 4).reduce((a, b) => a + b, 0))"
            :currency="currency"
          /><Figure v-else-if="c.key === 'expected'" :amount="total(r => r.expected)" :currency="currency" />
        </td></tr
    ></template>
    <template #empty>Nothing is open.</template>
  </SheetTable>
</template>
