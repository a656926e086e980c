<script setup lang="ts">
import { COLLECTION_LEFT_OUT } from '~~/core/collections'
import type { CollectionLeftOutRow } from '~~/contract/collections'
import { plural, proseText } from '~/utils/format'

/** What is due and not collected, with the reason of each. */
defineProps<{
  rows: CollectionLeftOutRow[]
  more: boolean
  loading: boolean
  total: number
  open: boolean
}>()
const emit = defineEmits<{ more: []; take: [CollectionLeftOutRow]; cursor: [CollectionLeftOutRow] }>()
</script>

<template>
  <SheetTable
    :columns="[
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'item', label: 'Item', width: 104 },
      { key: 'rule', label: 'Left out as', width: 160 },
      { key: 'reason', label: 'Reason', cut: true },
      { key: 'amount', label: 'Amount', num: true, width: 116 },
      { key: 'take', label: '', width: 84 },
    ]"
    :rows="rows"
    :row-key="r => `${r.customer.number} ${r.item ?? ''}`"
    :more="more"
    :loading="loading"
    label="Left out"
    @more="emit('more')"
    @cursor="r => emit('cursor', r)"
  >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-item="{ row }">{{ row.item ?? 'all of it' }}</template>
    <template #cell-rule="{ row }">{{ COLLECTION_LEFT_OUT[row.rule] }}</template>
    <template #cell-reason="{ row }"
      ><span :title="proseText(row.reason)">{{ proseText(row.reason) }}</span></template
    >
    <template #cell-amount="{ row }"><Figure :amount="row.amount" currency="EUR" /></template>
    <template #cell-take="{ row }"
      ><button v-if="open && row.rule === 'chosen'" class="plain" tabindex="-1" @click="emit('take', row)">
        Take in
      </button></template
    >
    <template #foot
      ><tr>
        <td colspan="4">{{ plural(rows.length, 'line') }}</td>
        <td class="num"><Figure :amount="total" currency="EUR" zero /></td>
        <td /></tr
    ></template>
    <template #empty>Nothing that is due is left out.</template>
  </SheetTable>
</template>
