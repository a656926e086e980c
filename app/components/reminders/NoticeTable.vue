<script setup lang="ts">
import type { RunNotice } from '~~/contract/reminders'
import { contract } from '~~/contract'
import { urlOf } from '~/utils/api'
import { dateText } from '~/utils/format'

/** The notices of a run: customer, level before and after, what is claimed; opened, line by line. */
defineProps<{
  runId: number
  isInterest: boolean
  rows: RunNotice[]
  more: boolean
  loading: boolean
  opened: string | null
  /** It can still be changed. */
  open: boolean
}>()
const emit = defineEmits<{
  cursor: [RunNotice]
  open: [RunNotice]
  toggle: [RunNotice]
  more: []
}>()

const letterUrl = (runId: number, n: RunNotice) =>
  n.sent
    ? urlOf(contract.reminders.letter, { id: n.sent.id })
    : urlOf(contract.reminders.preview, { id: runId }, { key: n.key })
/** The levels its items rise from and to: `0–1 → 1–2`. */
function levelsOf(n: RunNotice): string {
  const rising = n.items.filter(i => i.level > i.before)
  const span = (of: (i: RunNotice['items'][number]) => number) => {
    const all = rising.map(of)
    const [least, most] = [Math.min(...all), Math.max(...all)]
    return least === most ? String(most) : `${least}–${most}`
  }
  return rising.length ? `${span(i => i.before)} → ${span(i => i.level)}` : '–'
}
const columns = (isInterest: boolean) => [
  { key: 'send', label: 'Send', width: 46 },
  { key: 'customer', label: 'Customer', cut: true },
  ...(isInterest ? [] : [{ key: 'level', label: 'Level', width: 74, title: 'Before and after' }]),
  { key: 'items', label: 'Items', num: true, width: 50 },
  { key: 'total', label: 'Overdue', num: true, width: 124 },
  ...(isInterest ? [] : [{ key: 'fee', label: 'Fee', num: true, width: 70 }]),
  { key: 'interest', label: 'Interest', num: true, width: 86 },
  { key: 'channel', label: 'By', width: 58, gives: 1 },
  { key: 'letter', label: 'Letter', width: 78 },
]
</script>

<template>
  <SheetTable
    :columns="columns(isInterest)"
    :rows="rows"
    :row-key="n => n.key"
    :more="more"
    :loading="loading"
    label="Notices"
    :opened="opened"
    :row-class="n => (n.included && !n.sent?.withdrawnOn ? '' : 'text-faint line-through decoration-faint')"
    @more="emit('more')"
    @cursor="n => emit('cursor', n)"
    @open="n => emit('open', n)"
  >
    <template #cell-send="{ row }"
      ><input
        type="checkbox"
        class="tick"
        tabindex="-1"
        :disabled="!open"
        :checked="row.included"
        :aria-label="`Send to ${row.customer.name}`"
        @click.stop.prevent="emit('toggle', row)"
    /></template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span
      ><span v-if="!row.included" class="aside ml-1.5">left out: {{ row.leftOutFor }}</span
      ><span v-else-if="row.sent?.withdrawnOn" class="aside ml-1.5"
        >withdrawn {{ dateText(row.sent.withdrawnOn) }}</span
      ><span v-else class="aside ml-1.5"
        ><b v-if="row.changed.length" class="font-semibold text-ink">{{ row.changed.join(', ') }}; </b
        ><b v-if="row.warnings.length" class="font-semibold text-ink">{{ row.warnings.join(', ') }}; </b
        >{{ row.why }}</span
      ></template
    >
    <template #cell-level="{ row }"
      ><span :title="`The letter has level ${row.level}`">{{ levelsOf(row) }}</span></template
    >
    <template #cell-items="{ row }">{{ row.items.length }}</template>
    <template #cell-total="{ row }"
      ><Figure :amount="row.total" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-fee="{ row }"><Figure :amount="row.fee" :currency="row.currency" /></template>
    <template #cell-interest="{ row }"><Figure :amount="row.interest" :currency="row.currency" /></template>
    <template #cell-channel="{ row }">{{ row.channel === 'email' ? 'e-mail' : 'post' }}</template>
    <template #cell-letter="{ row }"
      ><a class="makes text-accent" tabindex="-1" :href="letterUrl(runId, row)" target="_blank" @click.stop>{{
        row.sent?.number ?? 'preview'
      }}</a></template
    >
    <template #under="{ row }"><NoticeParts :notice="row" /></template>
    <template #foot="{ columns: shown }"
      ><tr>
        <td :colspan="shown?.length ?? 9"><slot name="foot" /></td></tr
    ></template>
    <template #empty><slot name="empty" /></template>
  </SheetTable>
</template>
