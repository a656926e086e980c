<script setup lang="ts">
import { contract } from '~~/contract'
import type { CollectionRow } from '~~/contract/collections'
import { urlOf } from '~/utils/api'
import { amountText, dateText, proseText } from '~/utils/format'

/** Collections of customers, each opened item by item. */
defineProps<{
  rows: CollectionRow[]
  more: boolean
  loading: boolean
  opened: number | null
  /** It is a proposal: rows can be left out. */
  open: boolean
  isRun: boolean
  label: string
}>()
const emit = defineEmits<{
  cursor: [CollectionRow]
  open: [CollectionRow]
  more: []
  leave: [CollectionRow]
}>()
const GONE = ['dropped', 'refused', 'returned']
</script>

<template>
  <SheetTable
    :columns="[
      ...(isRun ? [] : [{ key: 'number', label: 'Collection', width: 96 }]),
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'mandate', label: 'Mandate', width: 104, gives: isRun ? 2 : 1 },
      { key: 'sequence', label: 'As', width: 88, gives: isRun ? 1 : 2 },
      ...(isRun ? [] : [{ key: 'collectOn', label: 'On', width: 98 }]),
      { key: 'told', label: isRun && open ? 'Why' : 'Where it stands', cut: true },
      { key: 'items', label: 'Items', num: true, width: 48 },
      { key: 'amount', label: 'Amount, EUR', num: true, width: 116 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="more"
    :loading="loading"
    :opened="opened"
    :label="label"
    :row-class="r => (GONE.includes(r.state) ? 'text-faint' : '')"
    @more="emit('more')"
    @cursor="r => emit('cursor', r)"
    @open="r => emit('open', r)"
  >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-mandate="{ row }">{{ row.mandate.reference }}</template>
    <template #cell-sequence="{ row }"
      ><span :title="row.mandate.scheme">{{ row.sequence }} {{ row.mandate.scheme }}</span></template
    >
    <template #cell-collectOn="{ row }">{{ dateText(row.collectOn) }}</template>
    <template #cell-told="{ row }"
      ><span v-if="row.state === 'proposed'" class="text-soft">{{ proseText(row.why) }}</span
      ><span v-else-if="row.back" :class="row.back.done ? 'text-soft' : 'wrong'"
        >{{ row.back.label }}, {{ dateText(row.back.on) }}</span
      ><span v-else>{{ proseText(row.told) }}</span></template
    >
    <template #cell-items="{ row }">{{ row.items.length }}</template>
    <template #cell-amount="{ row }"><Figure :amount="row.amount" currency="EUR" /></template>
    <template #under="{ row }">
      <table class="max-w-[560px]">
        <tbody>
          <tr v-for="i in row.items" :key="i.id">
            <td class="w-[110px]">{{ i.number }}</td>
            <td class="w-[130px] text-soft">due {{ dateText(i.dueDate) }}</td>
            <td class="num w-[110px]"><Figure :amount="i.amount" currency="EUR" /></td>
            <td class="pl-4 text-soft">
              <template v-if="i.discount">less discount {{ amountText(i.discount, 'EUR') }}</template>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1 text-soft">
        <template v-for="(c, n) in row.credits" :key="c.number"
          >{{ n ? ', ' : 'Less credit ' }}{{ c.number }} {{ amountText(c.amount, 'EUR') }} on
          {{ c.item }}</template
        ><template v-if="row.credits.length">. </template>From {{ row.mandate.iban }} by mandate
        {{ row.mandate.reference
        }}<template v-if="row.state === 'collected'"
          >; may come back without a reason until {{ dateText(row.finalAfter) }}</template
        >.
        <a
          v-if="row.notice"
          class="plain ml-3"
          :href="urlOf(contract.letters.asSent, { id: row.notice })"
          target="_blank"
          >Advance notice</a
        >
        <NuxtLink v-if="row.receipt" class="plain ml-3" :to="`/receipts/${row.receipt.id}`">{{
          row.receipt.number
        }}</NuxtLink>
        <button v-if="open" class="plain ml-3" @click="emit('leave', row)">
          Leave it out <kbd>Space</kbd>
        </button>
      </p>
    </template>
    <template #foot="{ columns }"
      ><tr>
        <td :colspan="columns?.length ?? 8"><slot name="foot" /></td></tr
    ></template>
    <template #empty><slot name="empty" /></template>
  </SheetTable>
</template>
