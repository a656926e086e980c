<script setup lang="ts">
import { reactive } from 'vue'
import type { z } from 'zod'
import { contract } from '~~/contract'
import type { receiptRow } from '~~/contract/receipts'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

type Row = z.output<typeof receiptRow>
const desk = useDesk()
const session = useSession()
const route = useRoute()
const query = reactive({
  search: String(route.query.find ?? ''),
  state: (route.query.state === 'unallocated' ? 'unallocated' : 'all') as 'all' | 'unallocated' | 'reversed',
})
const { rows, answer, loading, trouble, more } = usePages<Row, Awaited<ReturnType<typeof read>>>(
  read,
  [() => ({ ...query })],
  150,
)
function read(cursor: string | undefined) {
  return call(contract.receipts.list, {
    query: { state: query.state, search: query.search || undefined, limit: 100, cursor },
  })
}
</script>

<template>
  <div class="sheet-head">
    <h1>Receipts</h1>
    <FindField
      v-model="query.search"
      class="w-[260px]"
      placeholder="Cheque number, receipt, name, amount, invoice"
      label="Find a receipt"
    />
    <span
      ><label class="label" for="state">Show </label
      ><select id="state" v-model="query.state" class="field">
        <option value="all">all</option>
        <option value="unallocated">with money on account</option>
        <option value="reversed">reversed</option>
      </select></span
    >
    <NuxtLink v-if="session.can('receipts.post')" class="go ml-auto !py-1.5" to="/receipts/new"
      >Enter a receipt <kbd class="!bg-transparent !text-on-accent opacity-80">I</kbd></NuxtLink
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Receipt', width: 84 },
      { key: 'date', label: 'Paid on', width: 92 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'means', label: 'By', width: 70 },
      { key: 'reference', label: 'Reference', width: 130 },
      { key: 'amount', label: 'Amount', num: true, width: 120 },
      { key: 'rest', label: 'On account', num: true, width: 100 },
      { key: 'state', label: 'Where', width: 70 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Receipts"
    @more="more"
    @cursor="r => desk.choose(r.customer.number)"
    @open="r => navigateTo(`/receipts/${r.id}`)"
  >
    <template #cell-number="{ row }"
      ><NuxtLink class="makes font-semibold" tabindex="-1" :to="`/receipts/${row.id}`">{{
        row.number
      }}</NuxtLink></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-means="{ row }">{{ row.means }}</template>
    <template #cell-reference="{ row }"
      ><span class="block max-w-[130px] truncate" :title="row.reference">{{ row.reference }}</span></template
    >
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-rest="{ row }"><Figure :amount="row.unallocated" :currency="row.currency" /></template>
    <template #cell-state="{ row }"
      ><span :class="row.state === 'reversed' ? 'wrong' : 'text-soft'">{{ row.state }}</span></template
    >
    <template #foot
      ><tr v-for="(t, n) in answer?.totals ?? []" :key="t.currency">
        <td colspan="5">{{ n === 0 ? plural(answer!.count, 'receipt') : '' }}</td>
        <td class="num">
          <Figure :amount="t.amount" :currency="t.currency" /><span class="aside ml-1">{{ t.currency }}</span>
        </td>
        <td class="num"><Figure :amount="t.unallocated" :currency="t.currency" /></td>
        <td /></tr
    ></template>
    <template #empty
      ><template v-if="query.search"
        >No receipt matches “{{ query.search }}”. Cheque number, name, exact amount and paid invoice are
        searched.</template
      ><template v-else
        >No receipts yet.
        <NuxtLink v-if="session.can('receipts.post')" class="plain" to="/receipts/new"
          >Enter the first</NuxtLink
        ></template
      ></template
    >
  </SheetTable>
</template>
