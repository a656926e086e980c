<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { HandoverRow } from '~~/contract/reminders/handover'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Accounts that were handed over to an agency or lawyer: what came since, what it costs. */
type Answer = Awaited<ReturnType<typeof read>>
const desk = useDesk()
const session = useSession()
const route = useRoute()
const read = () => call(contract.handovers.list)
const answer = ref<Answer | null>(null)
const { trouble, guard, complain } = useGuard()
const load = () => fill(answer, read).catch(complain)
void load()
const may = computed(() => session.can('reminders.run'))
const current = ref<HandoverRow | null>(null)
const form = reactive({ customer: String(route.query.customer ?? ''), agency: '', reason: '' })
const asks = ref<'cost' | 'end' | null>(null)
const cost = reactive({
  on: session.today,
  currency: 'EUR',
  amount: null as number | null,
  text: '',
  charge: false,
})
const why = ref('')
let key = crypto.randomUUID()
async function handOver(): Promise<void> {
  await guard(
    () => call(contract.handovers.handOver, { body: { ...form } }),
    `Handed over to ${form.agency}: no reminder goes there any more.`,
  )
  if (trouble.value) return
  Object.assign(form, { customer: '', reason: '' })
  await Promise.all([load(), desk.refresh()])
}
async function addCost(): Promise<void> {
  if (cost.amount === null) return
  const { id } = current.value!
  const body = { ...cost, amount: cost.amount }
  await guard(() => call(contract.handovers.cost, { params: { id }, body, key }), 'The cost is recorded.')
  if (trouble.value) return
  key = crypto.randomUUID()
  asks.value = null
  Object.assign(cost, { amount: null, text: '' })
  await load()
}
async function end(): Promise<void> {
  const { id } = current.value!
  await guard(
    () => call(contract.handovers.end, { params: { id }, body: { why: why.value } }),
    'Ended: it is reminded by us again.',
  )
  if (trouble.value) return
  asks.value = null
  why.value = ''
  await load()
}
const costsOf = (row: HandoverRow) =>
  row.costs.map(k => `${k.text}${k.charged ? `, charged on as ${k.charged}` : ''}`).join('; ')
const sum = (of: (r: HandoverRow) => number) =>
  (answer.value?.items ?? []).filter(r => !r.ended).reduce((a, r) => a + of(r), 0)
const isOpen = () => Boolean(current.value && !current.value.ended && may.value)
useKeys([
  {
    key: 'c',
    label: 'Record a cost',
    when: isOpen,
    run: () => {
      asks.value = 'cost'
    },
  },
  {
    key: 'e',
    label: 'It is over',
    when: isOpen,
    run: () => {
      asks.value = 'end'
    },
  },
  {
    key: 'a',
    label: 'The archive',
    when: () => current.value !== null,
    run: () => {
      window.open(urlOf(contract.handovers.archive, { id: current.value!.id }), '_blank')
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Handed over</h1>
    <span class="text-soft">to an agency or lawyer; we do not remind these accounts</span>
    <NuxtLink class="plain ml-auto" to="/reminders">Runs</NuxtLink>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <form v-if="may" class="filters" @submit.prevent="handOver">
    <span
      ><label class="label" for="hand-customer">Account </label
      ><input id="hand-customer" v-model="form.customer" class="field w-[90px]" placeholder="number" required
    /></span>
    <span
      ><label class="label" for="hand-agency">to </label
      ><input
        id="hand-agency"
        v-model="form.agency"
        class="field w-[170px]"
        placeholder="agency or lawyer"
        required
        maxlength="120"
    /></span>
    <span
      ><label class="label" for="hand-reason">because </label
      ><input id="hand-reason" v-model="form.reason" class="field w-[230px]" required maxlength="300"
    /></span>
    <button class="plain">Hand over</button>
  </form>
  <p v-if="answer?.proposed.length" class="hint px-[18px] pb-2">
    The last reminder proposes:
    <template v-for="(p, n) in answer.proposed.slice(0, 8)" :key="p.customer.number"
      ><button class="makes" @click="form.customer = p.customer.number">{{ p.customer.name }}</button
      >&nbsp;<Figure :amount="p.open" :currency="answer.base" />{{
        n < Math.min(8, answer.proposed.length) - 1 ? ', ' : ''
      }}</template
    >
  </p>
  <SheetTable
    :columns="[
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'agency', label: 'With', cut: true, width: 150 },
      { key: 'on', label: 'Since', width: 96 },
      { key: 'amount', label: 'Handed over', num: true, width: 110 },
      { key: 'open', label: 'Open now', num: true, width: 110 },
      { key: 'received', label: 'Came since', num: true, width: 110 },
      { key: 'costs', label: 'Costs', num: true, width: 66 },
      { key: 'ended', label: 'Ended', width: 110, gives: 1 },
    ]"
    :rows="answer?.items ?? []"
    :row-key="r => r.id"
    :loading="!answer"
    label="Handed over"
    :opened="current?.id ?? null"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
    @open="r => navigateTo(`/accounts/${r.customer.number}`)"
  >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-agency="{ row }">{{ row.agency }}</template>
    <template #cell-on="{ row }">{{ dateText(row.on) }}</template>
    <template #cell-amount="{ row }"><Figure :amount="row.amount" :currency="answer!.base" /></template>
    <template #cell-open="{ row }"><Figure :amount="row.open" :currency="answer!.base" /></template>
    <template #cell-received="{ row }"><Figure :amount="row.received" :currency="answer!.base" /></template>
    <template #cell-costs="{ row }">{{ row.costs.length || '' }}</template>
    <template #cell-ended="{ row }"
      ><span :title="row.ended?.why">{{ row.ended ? dateText(row.ended.on) : 'runs' }}</span></template
    >
    <template #under="{ row }"
      ><p class="text-soft">
        By {{ row.by }}: {{ row.reason }}.<template v-if="row.costs.length">
          Costs: {{ costsOf(row) }}.</template
        ><template v-if="row.ended"> Ended: {{ row.ended.why }}.</template>
        <a class="plain ml-2" :href="urlOf(contract.handovers.archive, { id: row.id })"
          >The archive <kbd>A</kbd></a
        >
        <template v-if="may && !row.ended"
          ><button class="plain ml-3" @click="asks = 'cost'">A cost <kbd>C</kbd></button
          ><button class="plain ml-3" @click="asks = 'end'">It is over <kbd>E</kbd></button></template
        >
      </p></template
    >
    <template #foot
      ><tr>
        <td colspan="3">
          {{ plural((answer?.items ?? []).filter(r => !r.ended).length, 'account') }} with others
        </td>
        <td class="num"><Figure :amount="sum(r => r.amount)" :currency="answer?.base ?? 'EUR'" /></td>
        <td class="num"><Figure :amount="sum(r => r.open)" :currency="answer?.base ?? 'EUR'" /></td>
        <td class="num"><Figure :amount="sum(r => r.received)" :currency="answer?.base ?? 'EUR'" /></td>
        <td colspan="2" /></tr
    ></template>
    <template #empty>No account is with an agency or lawyer.</template>
  </SheetTable>
  <form
    v-if="asks === 'cost' && current"
    class="filters border-t border-rule !py-2"
    @submit.prevent="addCost"
    @keydown.esc="asks = null"
  >
    <b class="font-semibold">A cost of {{ current.agency }}</b>
    <DateField v-model="cost.on" label="On" :today="session.today" :max="session.today" />
    <input v-model="cost.currency" class="field w-14" aria-label="Currency" maxlength="3" />
    <MoneyField v-model="cost.amount" :currency="cost.currency" label="Amount" />
    <input
      v-model="cost.text"
      v-focus
      class="field w-[200px]"
      placeholder="what for"
      aria-label="What for"
      required
    />
    <label class="flex items-center gap-1.5"
      ><input v-model="cost.charge" type="checkbox" class="tick" /> charge it on to the customer</label
    >
    <button class="plain">Record it</button>
  </form>
  <form
    v-if="asks === 'end' && current"
    class="filters border-t border-rule !py-2"
    @submit.prevent="end"
    @keydown.esc="asks = null"
  >
    <b class="font-semibold">{{ current.customer.name }} is over because</b>
    <input
      v-model="why"
      v-focus
      class="field w-[280px]"
      aria-label="Why it is over"
      required
      maxlength="200"
    />
    <button class="plain">End it</button>
  </form>
</template>
