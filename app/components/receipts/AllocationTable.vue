<script setup lang="ts">
import { computed, nextTick, ref } from 'vue'
import { isSmallDifference } from '~~/core/receipts'
import type { AccountItem } from '~~/contract/accounts'
import { DEDUCTION_REASONS } from '~~/contract/receipts'
import type { Extra } from '~/composables/receipts/allocation'
import { useKeys } from '~/composables/keys'
import { dateText, shortDay } from '~/utils/format'

/** Open items to allocate to: tick, type part amounts. The chosen amounts live in the page. */
const props = defineProps<{
  items: AccountItem[]
  chosen: Record<number, number | null>
  extras: Record<number, Extra>
  currency: string
  date: string
  tolerance: number
  authority: boolean
  plain?: boolean
  deductions?: boolean
}>()
const emit = defineEmits<{
  toggle: [AccountItem]
  amount: [AccountItem, number | null]
  discount: [AccountItem]
  difference: [AccountItem]
  deduction: [AccountItem, string]
}>()
const at = ref(0)
const body = ref<HTMLElement | null>(null)
const sum = computed(() => props.items.reduce((a, i) => a + (props.chosen[i.id] ?? 0), 0))
const count = computed(() => props.items.filter(i => props.chosen[i.id]).length)
const extra = (i: AccountItem) => (props.extras[i.id]?.discount ?? 0) + (props.extras[i.id]?.difference ?? 0)
const left = (i: AccountItem) => i.open - (props.chosen[i.id] ?? 0) - extra(i)
const extraSum = computed(() => props.items.reduce((a, i) => a + extra(i), 0))
const small = (i: AccountItem) =>
  Boolean(props.chosen[i.id]) && isSmallDifference(i, left(i), props.tolerance)
const mayDiscount = (i: AccountItem) =>
  !props.plain && (i.discount !== null || (props.authority && i.offered > 0))
const total = computed(() => props.items.reduce((a, i) => a + i.open, 0))
function move(to: number): void {
  at.value = Math.max(0, Math.min(props.items.length - 1, to))
  void nextTick(() =>
    body.value?.querySelector(`[data-at="${at.value}"]`)?.scrollIntoView({ block: 'nearest' }),
  )
}
function edit(): void {
  body.value?.querySelector<HTMLInputElement>(`[data-at="${at.value}"] input.num`)?.focus()
}
useKeys([
  { key: 'ArrowDown', label: 'Next item', run: () => move(at.value + 1) },
  { key: 'ArrowUp', label: 'Item before', run: () => move(at.value - 1) },
  {
    key: ' ',
    label: 'Tick the item',
    run: () => {
      const i = props.items[at.value]
      if (i) emit('toggle', i)
    },
  },
  { key: 'Enter', label: 'Type a part amount', run: edit },
  {
    key: 'd',
    label: 'Take the discount, or not',
    when: () => Boolean(props.items[at.value] && mayDiscount(props.items[at.value]!)),
    run: () => emit('discount', props.items[at.value]!),
  },
  {
    key: 's',
    label: 'Write off the small difference',
    when: () =>
      Boolean(
        props.items[at.value] &&
        (small(props.items[at.value]!) || props.extras[props.items[at.value]!.id]?.difference),
      ),
    run: () => emit('difference', props.items[at.value]!),
  },
  {
    key: 'q',
    label: 'What is left is a deduction, or not',
    when: () => Boolean(props.items[at.value] && mayDeduct(props.items[at.value]!)),
    run: () => {
      const i = props.items[at.value]!
      emit('deduction', i, props.extras[i.id]?.deduction ? '' : DEDUCTION_REASONS[0])
      void nextTick(() =>
        body.value?.querySelector<HTMLSelectElement>(`[data-at="${at.value}"] select`)?.focus(),
      )
    },
  },
])
const mayDeduct = (i: AccountItem) => Boolean(props.deductions && props.chosen[i.id]) && left(i) > 0
const done = (event: KeyboardEvent) => {
  ;(event.target as HTMLElement).blur()
  move(at.value + 1)
}
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto">
    <table class="grid-table">
      <thead>
        <tr>
          <th>Item</th>
          <th>Due</th>
          <th class="num">Days late</th>
          <th class="num">Open</th>
          <th class="num">Discount on {{ shortDay(date) }}</th>
          <th class="num">Pays now</th>
          <th class="num">Left</th>
        </tr>
      </thead>
      <tbody ref="body">
        <tr
          v-for="(i, n) in items"
          :key="i.id"
          :data-at="n"
          :data-item="i.number"
          :class="n === at ? 'on' : ''"
          @click="at = n"
        >
          <td>
            <label class="flex items-center gap-2.5"
              ><input
                type="checkbox"
                class="tick"
                tabindex="-1"
                :checked="Boolean(chosen[i.id])"
                :aria-label="`Pay ${i.number}`"
                @change="emit('toggle', i)"
              /><span class="font-semibold">{{ i.number }}</span
              ><span v-if="i.parts > 1" class="aside">{{ i.part }} of {{ i.parts }}</span
              ><span class="aside">{{ i.kind === 'fee' ? 'reminder fee' : i.text }}</span></label
            >
          </td>
          <td>{{ dateText(i.dueDate) }}</td>
          <td class="num">
            <b v-if="i.daysLate > 0" class="font-semibold">{{ i.daysLate }}</b><span v-else class="cents">{{
              i.daysLate === 0 ? 'today' : `in ${-i.daysLate}`
            }}</span>
          </td>
          <td class="num"><Figure :amount="i.open" :currency="currency" /></td>
          <td class="num">
            <button
              v-if="mayDiscount(i) || extras[i.id]?.discount"
              class="makes"
              tabindex="-1"
              :class="extras[i.id]?.discount ? 'font-semibold' : 'text-soft'"
              :title="
                extras[i.id]?.discount
                  ? 'discount taken; click to leave it'
                  : i.discount
                    ? `until ${dateText(i.discount.until)}; click to take it`
                    : 'late; click to grant it on your authority'
              "
              @click.stop="
                () => {
                  at = n
                  emit('discount', i)
                }
              "
            >
              <Figure
                :amount="extras[i.id]?.discount || i.discount?.amount || i.offered"
                :currency="currency"
              />
              {{ ' ' }}
              <span class="aside"
                >{{
                  extras[i.id]?.discount
                    ? extras[i.id]!.late
                      ? 'granted late'
                      : 'taken'
                    : i.discount
                      ? 'take'
                      : 'late'
                }}
                <kbd v-if="n === at">D</kbd></span
              >
            </button>
            <span v-else-if="i.offered" class="cents" title="the discount date is past"
              ><Figure :amount="i.offered" :currency="currency" /> <span class="aside">lost</span></span
            >
            <span v-else class="none">·</span>
          </td>
          <td class="num">
            <MoneyField
              :model-value="chosen[i.id] ?? null"
              :currency="currency"
              :label="`Amount for ${i.number}`"
              :max="i.open"
              placeholder="·"
              @update:model-value="v => emit('amount', i, v)"
              @focus="at = n"
              @keydown.enter.prevent="done"
              @keydown.down.prevent="done"
              @keydown.escape="($event.target as HTMLElement).blur()"
            />
          </td>
          <td class="num" :class="left(i) < 0 ? 'wrong' : ''">
            <button
              v-if="extras[i.id]?.difference"
              class="makes text-soft"
              tabindex="-1"
              title="small difference written off; click to leave it open"
              @click.stop="emit('difference', i)"
            >
              <Figure :amount="extras[i.id]!.difference" :currency="currency" />
              {{ ' ' }}
              <span class="aside">written off</span></button
            ><template v-else
              ><button
                v-if="small(i)"
                class="aside makes mr-1.5 text-accent"
                tabindex="-1"
                @click.stop="
                  () => {
                    at = n
                    emit('difference', i)
                  }
                "
              >
                write off <kbd v-if="n === at">S</kbd></button
              ><template v-if="mayDeduct(i)"
                ><select
                  v-if="extras[i.id]?.deduction"
                  class="field mr-1.5 !text-[11px]"
                  tabindex="-1"
                  :value="extras[i.id]!.deduction"
                  :aria-label="`Why ${i.number} is cut short`"
                  @change="emit('deduction', i, ($event.target as HTMLSelectElement).value)"
                  @keydown.enter="($event.target as HTMLElement).blur()"
                >
                  <option v-for="r in DEDUCTION_REASONS" :key="r" :value="r">
                    {{ r.replace('-', ' ') }}
                  </option>
                  <option value="">no deduction</option></select
                ><button
                  v-else-if="n === at"
                  class="aside makes mr-1.5 text-accent"
                  tabindex="-1"
                  @click.stop="emit('deduction', i, DEDUCTION_REASONS[0])"
                >
                  deduction <kbd>Q</kbd>
                </button></template
              ><Figure :amount="left(i)" :currency="currency"
            /></template>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">Chosen {{ count }} of {{ items.length }}</td>
          <td class="num"><Figure :amount="total" :currency="currency" zero /></td>
          <td class="num"><Figure :amount="extraSum" :currency="currency" /></td>
          <td class="num" data-test="assigned"><Figure :amount="sum" :currency="currency" zero /></td>
          <td class="num"><Figure :amount="total - sum - extraSum" :currency="currency" zero /></td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>
