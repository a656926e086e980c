<script setup lang="ts">
import { RadioGroup, RadioGroupOption } from '@headlessui/vue'
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem, AccountItems } from '~~/contract/accounts'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { amountText, dateText, isCharge, isReceived, kindText, plural } from '~/utils/format'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.params.number))
const query = reactive({
  state: (['open', 'all', 'cleared'].includes(String(route.query.state)) ? route.query.state : 'open') as
    'open' | 'all' | 'cleared',
  asOf: String(route.query.asOf ?? session.today),
  search: String(route.query.find ?? ''),
  sort: 'due' as const,
})
const { rows, answer, loading, trouble, more, reload } = usePages<AccountItem, AccountItems>(
  cursor =>
    call(contract.accounts.items, {
      params: { number: number.value },
      query: { ...query, search: query.search || undefined, limit: 100, cursor },
    }),
  [number, () => ({ ...query })],
  120,
)
watch(number, n => desk.choose(n), { immediate: true })
watch(
  () => route.query.find,
  find => {
    if (find) Object.assign(query, { search: String(find), state: 'all' })
  },
)
const opened = ref<number | null>(null)
watch(rows, list => {
  if (query.search && list.length === 1 && list[0]!.links.length) opened.value = list[0]!.id
})
const current = ref<AccountItem | null>(null)
const pausing = ref<AccountItem | 'account' | null>(null)
const several = computed(() => new Set(rows.value.map(r => r.currency)).size > 1)
const columns = computed(() => [
  { key: 'item', label: 'Item', sort: 'number', cut: true },
  { key: 'date', label: 'Date', sort: 'date', width: 92 },
  { key: 'due', label: 'Due', sort: 'due', width: 92 },
  { key: 'late', label: 'Days late', num: true, width: 70 },
  {
    key: 'discount',
    label: query.asOf === session.today ? 'Discount today' : 'Discount',
    num: true,
    width: 96,
    title: 'cash discount still to be had, and until when',
  },
  { key: 'level', label: 'Level', num: true, width: 50, title: 'reminder level' },
  { key: 'amount', label: 'Amount', num: true, sort: 'amount', width: 104 },
  { key: 'open', label: 'Open', num: true, sort: 'open', width: 104 },
])
const credits = computed(() => rows.value.filter(r => r.side === 'credit' && r.open !== 0))
const toggle = (row: AccountItem) => {
  opened.value = opened.value === row.id ? null : row.id
}
function openRow(row: AccountItem): void {
  if (isReceived(row.kind) && session.can('books.read')) void navigateTo(`/receipts/${row.id}`)
  else toggle(row)
}
const allocate = (row: AccountItem | undefined) => {
  if (row) void navigateTo(`/receipts/new?customer=${encodeURIComponent(number.value)}&credit=${row.id}`)
}
watch([() => route.query.do, credits], ([what, list]) => {
  if (what === 'allocate' && list.length) allocate(list.reduce((a, b) => (b.open < a.open ? b : a)))
})
const giving = ref<AccountItem | null>(null)
const mayGive = computed(() => {
  const row = current.value
  return row !== null && row.open > 0 && isCharge(row.kind) && session.can('reminders.run')
})
const mayLose = computed(() => session.can('impairment.post') && rows.value.some(r => r.open > 0))
/** Bad debts of the account, with the item of the cursor chosen. */
const lostWay = computed(() => {
  const item = current.value && current.value.open > 0 ? `&item=${current.value.id}` : ''
  return `/impairment?customer=${encodeURIComponent(number.value)}${item}`
})
useKeys([
  {
    key: 'o',
    label: 'Open items',
    run: () => {
      query.state = 'open'
    },
  },
  {
    key: 'a',
    label: 'All items',
    run: () => {
      query.state = 'all'
    },
  },
  {
    key: 'c',
    label: 'Cleared items',
    run: () => {
      query.state = 'cleared'
    },
  },
  {
    key: ' ',
    label: 'What cleared the item',
    run: () => {
      if (current.value) toggle(current.value)
    },
  },
  {
    key: 'u',
    label: 'Use this credit',
    when: () => current.value?.side === 'credit' && current.value.open !== 0 && session.can('receipts.post'),
    run: () => allocate(current.value!),
  },
  {
    key: 'p',
    label: 'Pause reminders of the item',
    when: () => session.can('reminders.run') && current.value?.side === 'debit',
    run: () => {
      pausing.value = current.value
    },
  },
  {
    key: 'g',
    label: 'Give up the fee or interest',
    when: () => mayGive.value,
    run: () => {
      giving.value = current.value
    },
  },
  {
    key: 'w',
    label: 'Write the item off',
    when: () => mayLose.value,
    run: () => {
      void navigateTo(lostWay.value)
    },
  },
  {
    key: 'k',
    label: 'Claims by law',
    run: () => navigateTo(`/reminders/claims?customer=${encodeURIComponent(number.value)}`),
  },
  {
    key: 'x',
    label: 'Exposure, limit and holds',
    run: () => navigateTo(`/exposure/${encodeURIComponent(number.value)}`),
  },
  {
    key: 'l',
    label: 'Time line: all that happened',
    run: () => navigateTo(`/accounts/${encodeURIComponent(number.value)}/timeline`),
  },
  {
    key: 'm',
    label: 'Master of the customer',
    run: () => navigateTo(`/accounts/${encodeURIComponent(number.value)}/master`),
  },
  {
    key: 'r',
    label: 'Prepare a reminder',
    when: () => session.can('reminders.run'),
    run: () => navigateTo(`/reminders?customer=${encodeURIComponent(number.value)}`),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ desk.card?.number === number ? desk.card.name : number }}</h1>
    <RadioGroup v-model="query.state" class="flex gap-3" aria-label="Which items"
      ><RadioGroupOption
        v-for="s in ['open', 'all', 'cleared'] as const"
        :key="s"
        v-slot="{ checked }"
        :value="s"
        ><span
          class="cursor-pointer border-b-2 pb-0.5"
          :class="checked ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          >{{ { open: 'Open', all: 'All', cleared: 'Cleared' }[s] }}</span
        ></RadioGroupOption
      ></RadioGroup
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="as-of">as of</label
      ><DateField id="as-of" v-model="query.asOf" label="As of" :today="session.today"
    /></span>
    <FindField
      v-model="query.search"
      class="w-[150px]"
      placeholder="Number, order, cheque"
      label="Find in the account"
    />
    <span class="ml-auto flex flex-wrap gap-x-4">
      <NuxtLink
        v-if="session.can('receipts.post')"
        class="plain"
        :to="`/receipts/new?customer=${encodeURIComponent(number)}`"
        >Receipt <kbd>I</kbd></NuxtLink
      >
      <NuxtLink
        v-if="session.can('reminders.run')"
        class="plain"
        :to="`/reminders?customer=${encodeURIComponent(number)}`"
        >Reminder <kbd>R</kbd></NuxtLink
      >
      <button v-if="session.can('reminders.run')" class="plain" @click="pausing = 'account'">Pause</button>
      <NuxtLink
        v-if="session.can('reminders.run')"
        class="plain"
        :to="`/reminders/claims?customer=${encodeURIComponent(number)}`"
        >By law <kbd>K</kbd></NuxtLink
      >
      <NuxtLink v-if="mayLose" class="plain" :to="lostWay">Lost <kbd>W</kbd></NuxtLink>
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}/timeline`"
        >Time line <kbd>L</kbd></NuxtLink
      >
      <NuxtLink class="plain" :to="`/exposure/${encodeURIComponent(number)}`">Exposure <kbd>X</kbd></NuxtLink>
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}/master`"
        >Master <kbd>M</kbd></NuxtLink
      >
    </span>
  </div>
  <p v-if="query.asOf !== session.today" class="px-[18px] pb-1 text-soft">
    The account as it stood on {{ dateText(query.asOf) }}.
    <button class="plain !py-0" @click="query.asOf = session.today">Back to today</button>
  </p>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <PauseForm
    v-if="pausing"
    :customer="number"
    :item="pausing === 'account' ? null : pausing"
    @done="
      () => {
        pausing = null
        reload()
        desk.refresh()
      }
    "
    @cancel="pausing = null"
  />
  <GoodwillStrip
    v-if="giving"
    :key="giving.id"
    :item="giving"
    @done="
      () => {
        giving = null
        reload()
        desk.refresh()
      }
    "
    @cancel="giving = null"
  />
  <SheetTable
    v-model:sort="query.sort"
    :columns="columns"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Items"
    :opened="opened"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.item = { id: r.id, number: r.number, customer: number, isReceipt: isReceived(r.kind) }
      }
    "
    @open="openRow"
  >
    <template #cell-item="{ row }">
      <button
        class="mr-1 inline-block w-3 text-faint"
        tabindex="-1"
        :aria-label="`What cleared ${row.number}`"
        :aria-expanded="opened === row.id"
        @click.stop="toggle(row)"
      >
        {{ row.links.length ? (opened === row.id ? '▾' : '▸') : '' }}
      </button>
      <NuxtLink
        v-if="isReceived(row.kind) && session.can('books.read')"
        class="makes font-semibold"
        tabindex="-1"
        :to="`/receipts/${row.id}`"
        >{{ row.number }}</NuxtLink><span v-else class="font-semibold">{{ row.number }}</span
      ><template v-if="row.parts > 1"> {{ row.part }} of {{ row.parts }}</template>
      <span class="ml-1.5 text-soft"
        >{{ kindText(row.kind) }}<template v-if="row.reference">{{ ` ${row.reference}` }}</template
        ><template v-if="row.reversed">, reversed</template
        ><template v-if="row.paused && row.open">, paused</template
        ><template v-if="row.dispute">, disputed ({{ row.dispute.label.toLowerCase() }})</template
        ><template v-else-if="row.collection"
          >, collected by direct debit on {{ dateText(row.collection.on) }}</template
        ><template v-else-if="row.promise">, promised {{ dateText(row.promise.date) }}</template></span
      >
      <span v-if="row.text && row.kind !== 'fee'" class="aside ml-1.5">{{ row.text }}</span>
    </template>
    <template #cell-date="{ row }">{{ dateText(row.documentDate) }}</template>
    <template #cell-due="{ row }">{{ dateText(row.dueDate) }}</template>
    <template #cell-late="{ row }"
      ><template v-if="row.open > 0"
        ><template v-if="row.daysLate > 0">{{ row.daysLate }}</template
        ><span v-else class="cents">{{
          row.daysLate === 0 ? 'today' : `in ${-row.daysLate}`
        }}</span></template
      ><span v-else class="none">·</span></template
    >
    <template #cell-discount="{ row }"
      ><span v-if="row.discount" :title="`until ${dateText(row.discount.until)}`"
        ><Figure :amount="row.discount.amount" :currency="row.currency" /></span
      ><span v-else class="none">·</span></template
    >
    <template #cell-level="{ row }"
      ><span v-if="row.level" :title="`sent ${dateText(row.noticeDate)}`">{{ row.level }}</span
      ><span v-else class="none">·</span></template
    >
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" cr /><span v-if="several" class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-open="{ row }"
      ><b class="font-semibold"><Figure :amount="row.open" :currency="row.currency" cr /></b
    ></template>
    <template #under="{ row }">
      <p v-if="!row.links.length" class="text-soft">Nothing was allocated to {{ row.number }}.</p>
      <table v-else class="ml-4">
        <tbody>
          <tr v-for="l in row.links" :key="l.allocationId" :class="l.undone || l.undoes ? 'text-faint' : ''">
            <td class="!h-6 !border-0">{{ dateText(l.effective) }}</td>
            <td class="!h-6 !border-0">
              {{
                l.undoes
                  ? 'taken back from'
                  : row.side === 'credit'
                    ? 'paid'
                    : l.kind === 'discount' || l.kind === 'difference'
                      ? kindText(l.kind).toLowerCase()
                      : l.kind === 'credit-note'
                        ? 'credited by'
                        : 'paid by'
              }}
              <NuxtLink
                v-if="isReceived(l.kind) && session.can('books.read')"
                class="makes"
                :to="`/receipts/${l.itemId}`"
                >{{ l.number }}</NuxtLink><NuxtLink
                v-else
                class="makes"
                :to="`/accounts/${number}?state=all&find=${l.number}`"
                >{{ l.number }}</NuxtLink
              >
            </td>
            <td class="num !h-6 !border-0"><Figure :amount="l.amount" :currency="row.currency" /></td>
            <td class="!h-6 !border-0">{{ l.undone ? 'undone later' : l.undoes ? 'correction' : '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template #foot
      ><tr v-for="t in answer?.totals ?? []" :key="t.currency">
        <td colspan="6">
          {{ plural(answer!.count, 'item')
          }}<span class="hint ml-3 font-normal"
            >{{ t.currency }} debits {{ amountText(t.debit, t.currency) }}, credits
            {{ amountText(t.credit, t.currency) }}</span
          >
        </td>
        <td class="num"><Figure :amount="t.debit - t.credit" :currency="t.currency" cr zero /></td>
        <td class="num" data-test="open-total">
          <Figure :amount="t.open" :currency="t.currency" cr zero />
        </td></tr
    ></template>
    <template #empty
      ><template v-if="query.search"
        >Nothing here matches “{{ query.search }}”.
        <button class="plain" @click="query.search = ''">Show the whole account</button></template
      ><template v-else-if="query.state === 'open'"
        >Nothing is open on this account.
        <button class="plain" @click="query.state = 'all'">Show all items</button></template
      ><template v-else>No items yet.</template></template
    >
  </SheetTable>
</template>
