<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'

const desk = useDesk()
const search = ref('')
type Row = { number: string; name: string; currency: string; country: string }
const { rows, answer, loading, trouble, more } = usePages<Row, { items: Row[]; next: string | null }>(
  cursor =>
    call(contract.accounts.list, { query: { search: search.value || undefined, limit: 100, cursor } }),
  [search],
  150,
)
const field = ref<HTMLInputElement | null>(null)
useKeys([{ key: 'f', label: 'Filter', run: () => field.value?.focus() }])
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
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'name', label: 'Customer', cut: true },
      { key: 'number', label: 'Number', width: 110 },
      { key: 'country', label: 'Country', width: 80 },
      { key: 'currency', label: 'Currency', width: 90 },
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
    <template #cell-number="{ row }">{{ row.number }}</template><template #cell-country="{ row }">{{
      row.country
    }}</template
    ><template #cell-currency="{ row }">{{ row.currency }}</template>
    <template #empty
      >No customer found. Try part of the name, or
      <NuxtLink class="plain" to="/documents/import">import customers</NuxtLink>.</template
    >
  </SheetTable>
</template>
