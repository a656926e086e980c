<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import type { AccountItem } from '~~/contract/accounts'
import { useKeys } from '~/composables/keys'
import { dateText } from '~/utils/format'

/** Open items to allocate to: tick, type part amounts. The chosen amounts live in the page. */
const props = defineProps<{ items: AccountItem[], chosen: Record<number, number | null>, currency: string, date: string }>()
const emit = defineEmits<{ toggle: [AccountItem], amount: [AccountItem, number | null] }>()
const at = ref(0)
const body = ref<HTMLElement | null>(null)
const sum = computed(() => props.items.reduce((a, i) => a + (props.chosen[i.id] ?? 0), 0))
const count = computed(() => props.items.filter(i => props.chosen[i.id]).length)
const total = computed(() => props.items.reduce((a, i) => a + i.open, 0))
function move(to: number): void {
  at.value = Math.max(0, Math.min(props.items.length - 1, to))
  void nextTick(() => body.value?.querySelector(`[data-at="${at.value}"]`)?.scrollIntoView({ block: 'nearest' }))
}
function edit(): void { body.value?.querySelector<HTMLInputElement>(`[data-at="${at.value}"] input.num`)?.focus() }
useKeys([
  { key: 'ArrowDown', label: 'Next item', run: () => move(at.value + 1) }, { key: 'ArrowUp', label: 'Item before', run: () => move(at.value - 1) },
  { key: ' ', label: 'Tick the item', run: () => { const i = props.items[at.value]; if (i) emit('toggle', i) } },
  { key: 'Enter', label: 'Type a part amount', run: edit },
])
const done = (event: KeyboardEvent) => { (event.target as HTMLElement).blur(); move(at.value + 1) }
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto">
    <table class="grid-table">
      <thead><tr><th>Item</th><th>Due</th><th class="num">Days late</th><th class="num">Open</th><th class="num">Discount on {{ dateText(date).replace(/ \d{4}$/, '') }}</th><th class="num">Pays now</th><th class="num">Left</th></tr></thead>
      <tbody ref="body">
        <tr v-for="(i, n) in items" :key="i.id" :data-at="n" :data-item="i.number" :class="n === at ? 'on' : ''" @click="at = n">
          <td><label class="flex items-center gap-2.5"><input type="checkbox" class="tick" tabindex="-1" :checked="Boolean(chosen[i.id])" :aria-label="`Pay ${i.number}`" @change="emit('toggle', i)"><span class="font-semibold">{{ i.number }}</span><span v-if="i.parts > 1" class="aside">{{ i.part }} of {{ i.parts }}</span><span class="aside">{{ i.kind === 'fee' ? 'reminder fee' : i.text }}</span></label></td>
          <td>{{ dateText(i.dueDate) }}</td>
          <td class="num"><b v-if="i.daysLate > 0" class="font-semibold">{{ i.daysLate }}</b><span v-else class="cents">{{ i.daysLate === 0 ? 'today' : `in ${-i.daysLate}` }}</span></td>
          <td class="num"><Figure :amount="i.open" :currency="currency" /></td>
          <td class="num"><template v-if="i.discount"><Figure :amount="i.discount.amount" :currency="currency" /> <span class="aside">until {{ dateText(i.discount.until).replace(/ \d{4}$/, '') }}</span></template><span v-else class="none">·</span></td>
          <td class="num"><MoneyField :model-value="chosen[i.id] ?? null" :currency="currency" :label="`Amount for ${i.number}`" :max="i.open" placeholder="·" @update:model-value="v => emit('amount', i, v)" @focus="at = n" @keydown.enter.prevent="done" @keydown.down.prevent="done" @keydown.escape="($event.target as HTMLElement).blur()" /></td>
          <td class="num" :class="(chosen[i.id] ?? 0) > i.open ? 'wrong' : ''"><Figure :amount="i.open - (chosen[i.id] ?? 0)" :currency="currency" /></td>
        </tr>
      </tbody>
      <tfoot><tr><td colspan="3">Chosen {{ count }} of {{ items.length }}</td><td class="num"><Figure :amount="total" :currency="currency" zero /></td><td /><td class="num" data-test="assigned"><Figure :amount="sum" :currency="currency" zero /></td><td class="num"><Figure :amount="total - sum" :currency="currency" zero /></td></tr></tfoot>
    </table>
  </div>
</template>
