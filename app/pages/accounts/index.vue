<script setup lang="ts">
import { ref } from 'vue'
import type { z } from 'zod'
import { contract } from '~~/contract'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'

const desk = useDesk()
const search = ref('')
type Row = z.output<NonNullable<typeof contract.accounts.list.response>>['items'][number]
const session = useSession()
const { rows, answer, loading, trouble, more } = usePages<Row, { items: Row[]; next: string | null }>(
  cursor =>
    call(contract.accounts.list, { query: { search: search.value || undefined, limit: 100, cursor } }),
  [search],
  150,
)
const field = ref<HTMLInputElement | null>(null)
useKeys([
  { key: 'f', label: 'Filter', run: () => field.value?.focus() },
  {
    key: 'a',
    label: 'Add a customer',
    when: () => session.can('customers.edit'),
    run: () => navigateTo('/accounts/new'),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Accounts</h1>
    <input
      ref="field"
      v-model="search"
      class="field w-[220px]"
      placeholder="Name or number"
      aria-label="Filter"
      @keydown.escape="field?.blur()"
      @keydown.enter="field?.blur()"
    />
    <span class="ml-auto flex gap-4">
      <NuxtLink v-if="session.can('customers.edit')" class="plain" to="/accounts/new"
        >New customer <kbd>A</kbd></NuxtLink
      >
      <a class="plain" :href="urlOf(contract.accounts.export, {}, { search, format: 'csv' })">CSV</a>
      <a class="plain" :href="urlOf(contract.accounts.export, {}, { search, format: 'xlsx' })">XLSX</a>
    </span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'name', label: 'Customer', cut: true },
      { key: 'number', label: 'Number', width: 80 },
      { key: 'class', label: 'Class', width: 120, gives: 3 },
      { key: 'place', label: 'Place', width: 150, gives: 1 },
      { key: 'contact', label: 'Contact', width: 200, gives: 2 },
      { key: 'currency', label: 'Currency', width: 76, gives: 4 },
      { key: 'overdue', label: `Overdue, ${session.base}`, num: true, width: 110 },
      { key: 'open', label: `Open, ${session.base}`, num: true, width: 110 },
    ]"
    :rows="rows"
    :row-key="r => r.number"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Accounts"
    @more="more"
    @cursor="r => desk.choose(r.number)"
    @open="r => navigateTo(`/accounts/${encodeURIComponent(r.number)}`)"
  >
    <template #cell-name="{ row }"
      ><NuxtLink class="name makes" tabindex="-1" :to="`/accounts/${encodeURIComponent(row.number)}`">{{
        row.name
      }}</NuxtLink></template
    >
    <template #cell-number="{ row }">{{ row.number }}</template><template #cell-class="{ row }">{{
      row.class
    }}</template
    ><template #cell-place="{ row }"
      >{{ row.city }}<span class="aside ml-1.5">{{ row.country }}</span></template
    ><template #cell-contact="{ row }"
      >{{ row.contact }} <span class="aside">{{ row.phone }}</span></template
    ><template #cell-currency="{ row }">{{ row.currency }}</template
    ><template #cell-overdue="{ row }"
      ><Figure :amount="row.overdue" :currency="session.base" whole /></template
    ><template #cell-open="{ row }"><Figure :amount="row.open" :currency="session.base" whole cr /></template>
    <template #empty
      >No customer found. Try part of the name, or
      <NuxtLink class="plain" to="/documents/import">import customers</NuxtLink>.</template
    >
  </SheetTable>
</template>
