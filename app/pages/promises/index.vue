<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { PromiseRow } from '~~/contract/promises'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

/** What customers promised, and what became of it: the money says so, nobody else. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const state = ref<'open' | 'missed' | 'kept' | 'all'>('open')
const customer = computed(() => (route.query.customer ? String(route.query.customer) : undefined))
const {
  rows,
  answer,
  loading,
  trouble: unread,
  more,
  reload,
} = usePages<PromiseRow, { items: PromiseRow[]; next: string | null }>(
  cursor =>
    call(contract.promises.list, {
      query: { state: state.value, customer: customer.value, limit: 60, cursor },
    }),
  [state, customer],
)
const current = ref<PromiseRow | null>(null)
const { trouble, guard } = useGuard()
const withdrawing = ref(false)
const why = ref('')
async function withdraw(): Promise<void> {
  const { id } = current.value!
  await guard(
    () => call(contract.promises.withdraw, { params: { id }, body: { reason: why.value } }),
    'Taken back: it is asked for again.',
  )
  if (trouble.value) return
  withdrawing.value = false
  why.value = ''
  await Promise.all([reload(), desk.refresh()])
}
async function send(): Promise<void> {
  const { id, customer: whose } = current.value!
  await guard(
    () => call(contract.promises.send, { params: { id }, body: {} }),
    `The plan is on its way to ${whose.name}.`,
  )
}
const STATES = { open: 'To come', missed: 'Missed', kept: 'Kept', all: 'All' } as const
const STATE_WORDS: Record<PromiseRow['state'], string> = {
  open: 'to come',
  kept: 'kept',
  partly: 'partly kept',
  broken: 'broken',
  withdrawn: 'taken back',
}
const PART_WORDS = { due: 'to come', kept: 'kept', partly: 'partly', broken: 'broken' } as const
const nextOf = (row: PromiseRow) => row.parts.find(p => p.state === 'due') ?? row.parts.at(-1)!
const mayWithdraw = computed(() => current.value?.state === 'open' && session.can('chase.keep'))
const maySend = computed(() => Boolean(current.value) && session.can('letters.send'))
useKeys([
  {
    key: 'w',
    label: 'Take the promise back',
    when: () => mayWithdraw.value,
    run: () => {
      withdrawing.value = true
    },
  },
  { key: 's', label: 'Send the plan as a letter', when: () => maySend.value, run: () => void send() },
])
const columns = [
  { key: 'name', label: 'Customer', cut: true },
  { key: 'date', label: 'For', width: 96 },
  { key: 'amount', label: 'Promised', num: true, width: 116 },
  { key: 'paid', label: 'Came', num: true, width: 116 },
  { key: 'state', label: 'State', width: 92 },
  { key: 'what', label: 'For what', width: 150, gives: 2 },
  { key: 'made', label: 'Given', width: 150, gives: 1 },
]
</script>

<template>
  <PartsHead v-model="state" title="Promises" :parts="STATES">
    <span v-if="customer" class="text-soft"
      >of {{ customer }} <NuxtLink class="plain" to="/promises">all customers</NuxtLink></span
    >
  </PartsHead>
  <p v-if="unread || trouble" class="wrong px-[18px]" role="alert">{{ unread || trouble }}</p>
  <SheetTable
    :columns="columns"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Promises"
    @more="more"
    @cursor="
      r => {
        current = r
        withdrawing = false
        desk.choose(r.customer.number)
      }
    "
    @open="r => navigateTo(`/accounts/${encodeURIComponent(r.customer.number)}`)"
  >
    <template #cell-name="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-date="{ row }">{{ dateText(nextOf(row).date) }}</template>
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-paid="{ row }"><Figure :amount="row.paid" :currency="row.currency" /></template>
    <template #cell-state="{ row }"
      ><span
        :class="['broken', 'partly'].includes(row.state) ? 'wrong' : row.state === 'kept' ? '' : 'text-soft'"
        >{{ STATE_WORDS[row.state] }}</span
      ></template
    >
    <template #cell-what="{ row }">{{
      row.parts.length > 1
        ? plural(row.parts.length, 'instalment')
        : row.items
          ? row.items.length === 1
            ? row.items[0]!.number
            : plural(row.items.length, 'item')
          : 'the account'
    }}</template>
    <template #cell-made="{ row }">{{ dateText(row.madeOn) }}, {{ row.by.split(' ')[0] }}</template>
    <template #empty>{{
      {
        open: 'Nothing is promised now.',
        missed: 'No promise was missed.',
        kept: 'No promise was kept yet.',
        all: 'Nothing was promised yet.',
      }[state]
    }}</template>
  </SheetTable>
  <section
    v-if="current"
    class="on-paper grid max-h-[240px] grid-cols-[minmax(0,1.7fr)_minmax(0,1fr)_150px] border-t border-strong bg-paper"
    aria-label="The promise"
    data-test="promise"
  >
    <div class="overflow-auto px-[18px] py-3">
      <table class="grid-table flush" aria-label="Dates">
        <thead>
          <tr>
            <th>For</th>
            <th>In time until</th>
            <th class="num">Promised</th>
            <th class="num">Came</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in current.parts" :key="p.date">
            <td class="!h-[26px]">{{ dateText(p.date) }}</td>
            <td class="!h-[26px] text-soft">{{ dateText(p.until) }}</td>
            <td class="num !h-[26px]"><Figure :amount="p.amount" :currency="current.currency" /></td>
            <td class="num !h-[26px]"><Figure :amount="p.paid" :currency="current.currency" /></td>
            <td class="!h-[26px]">{{ PART_WORDS[p.state] }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="overflow-auto border-l border-rule px-[18px] py-3">
      <p v-if="current.text">“{{ current.text }}”</p>
      <p class="text-soft">
        {{
          current.items
            ? `For ${current.items.map(i => i.number).join(', ')}.`
            : 'For the account: the oldest items that it covers whole.'
        }}
      </p>
      <p v-if="current.withdrawn" class="text-soft">
        Taken back by {{ current.withdrawn.by }} on {{ dateText(current.withdrawn.on) }}:
        {{ current.withdrawn.reason }}
      </p>
      <form v-if="withdrawing" class="mt-2 flex items-baseline gap-3" @submit.prevent="withdraw">
        <input
          v-model="why"
          v-focus
          class="field min-w-0 flex-1"
          required
          maxlength="200"
          placeholder="Why"
          aria-label="Reason"
          @keydown.escape.stop="withdrawing = false"
        /><button class="plain">Take it back</button>
      </form>
    </div>
    <div class="flex flex-col gap-1 border-l border-rule px-[18px] py-3">
      <a class="plain" :href="urlOf(contract.promises.letter, { id: current.id })" target="_blank"
        >See it as a letter</a
      >
      <button v-if="maySend" class="plain text-left" @click="send">Send it <kbd>S</kbd></button>
      <button v-if="mayWithdraw" class="plain text-left" @click="withdrawing = true">
        Take it back <kbd>W</kbd>
      </button>
    </div>
  </section>
</template>
