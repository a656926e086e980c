<script setup lang="ts">
import { computed, ref } from 'vue'
import { LEFT_OUT_RULES, type LeftOutRule } from '~~/core/reminders'
import { contract } from '~~/contract'
import type { LeftOutLine } from '~~/contract/reminders'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'
import { plural, proseText } from '~/utils/format'

/** What a run leaves out, and why; by reason, or all. */
const props = defineProps<{ runId: number; version: number; base: string; search: string }>()
const desk = useDesk()
const rule = ref<LeftOutRule | ''>('')
const read = (cursor: string | undefined) =>
  call(contract.reminders.leftOut, {
    params: { id: props.runId },
    query: { rule: rule.value || undefined, search: props.search || undefined, limit: 100, cursor },
  })
type Answer = Awaited<ReturnType<typeof read>>
const { rows, answer, loading, trouble, more } = usePages<LeftOutLine, Answer>(
  read,
  [rule, () => props.version, () => props.search],
  150,
)
const sums = computed(() => answer.value?.rules ?? [])
const total = computed(() => {
  const own = rule.value ? sums.value.filter(s => s.rule === rule.value) : sums.value
  return { lines: own.reduce((a, s) => a + s.lines, 0), base: own.reduce((a, s) => a + s.base, 0) }
})
</script>

<template>
  <div class="filters">
    <span
      ><label class="label" for="left-rule">Reason </label
      ><select id="left-rule" v-model="rule" class="field">
        <option value="">all reasons</option>
        <option v-for="s in sums" :key="s.rule" :value="s.rule">
          {{ LEFT_OUT_RULES[s.rule] }}, {{ s.lines }}
        </option>
      </select></span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'customer', label: 'Customer', cut: true, width: 178 },
      { key: 'item', label: 'Item', width: 92 },
      { key: 'rule', label: 'Reason', width: 122, gives: 1 },
      { key: 'reason', label: 'Why it is left out', cut: true },
      { key: 'open', label: 'Open', num: true, width: 126 },
    ]"
    :rows="rows"
    :row-key="l => `${l.customer.number} ${l.currency} ${l.item} ${l.rule}`"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Left out"
    @more="more"
    @cursor="l => desk.choose(l.customer.number)"
    @open="l => navigateTo(`/accounts/${l.customer.number}`)"
  >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-item="{ row }">{{ row.item ?? 'all' }}</template>
    <template #cell-rule="{ row }">{{ LEFT_OUT_RULES[row.rule] }}</template>
    <template #cell-reason="{ row }"
      ><span :title="proseText(row.reason)">{{ proseText(row.reason) }}</span></template
    >
    <template #cell-open="{ row }"
      ><Figure :amount="row.open" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #foot
      ><tr>
        <td colspan="4">{{ plural(total.lines, 'line') }}, in {{ base }}</td>
        <td class="num"><Figure :amount="total.base" :currency="base" zero /></td></tr
    ></template>
    <template #empty>Nothing overdue is left out.</template>
  </SheetTable>
</template>
