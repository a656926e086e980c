<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { REFUND_METHODS, type RefundMethod } from '~~/core/refunds'
import { contract } from '~~/contract'
import { CREDIT_ORIGINS, type Refundable } from '~~/contract/refunds'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'

/** Credits that can go back: ticked, each with how it goes, proved and posted together. */
const props = defineProps<{ customer: string }>()
const emit = defineEmits<{ posted: [] }>()
const desk = useDesk()
const session = useSession()
const query = reactive({ search: '', only: 'all' as 'all' | 'asked' | 'refundable' })
const { rows, answer, loading, trouble, more, reload } = usePages<
  Refundable,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query }), () => props.customer], 120)
function read(cursor: string | undefined) {
  return call(contract.refunds.credits, {
    query: {
      only: query.only,
      search: query.search || undefined,
      customer: props.customer || undefined,
      limit: 60,
      cursor,
    },
  })
}
const current = ref<Refundable | null>(null)
const opened = ref<number | null>(null)
const chosen = reactive(new Map<number, { credit: Refundable; amount: number; method: RefundMethod }>())
const busy = ref(false)
const refused = ref('')
let key = crypto.randomUUID()
const may = computed(() => session.can('refunds.post'))

function toggle(credit: Refundable | null): void {
  if (!credit || !may.value || credit.waiting !== null) return
  if (chosen.has(credit.id)) chosen.delete(credit.id)
  else chosen.set(credit.id, { credit, amount: credit.open, method: credit.method })
}
/** Credits of one customer, currency and way go into one refund. */
const refunds = computed(() => {
  const together = new Map<
    string,
    { customer: string; method: RefundMethod; credits: { itemId: number; amount: number }[] }
  >()
  for (const { credit, amount, method } of chosen.values()) {
    const name = `${credit.customer.number} ${credit.currency} ${method}`
    const own = together.get(name) ?? { customer: credit.customer.number, method, credits: [] }
    together.set(name, own)
    own.credits.push({ itemId: credit.id, amount })
  }
  return [...together.values()]
})
const payees = computed(() => new Set(refunds.value.map(r => r.customer)).size)
/** How many refunds go which way. */
const ways = computed(() => {
  const counts = new Map<string, number>()
  for (const { method } of refunds.value) {
    const name = REFUND_METHODS[method]
    counts.set(name, (counts.get(name) ?? 0) + 1)
  }
  return [...counts.entries()]
})
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () => (refunds.value.length ? call(contract.refunds.proof, { body: { refunds: refunds.value } }) : null),
  [refunds],
)
const reason = computed(() => (refunds.value.length ? proofTrouble.value : 'tick what is to go back'))
async function post(): Promise<void> {
  if (!refunds.value.length || busy.value || !ready.value) return
  busy.value = true
  try {
    const done = await call(contract.refunds.post, { body: { refunds: refunds.value }, key })
    key = crypto.randomUUID()
    chosen.clear()
    refused.value = ''
    desk.say({
      text: done.waiting
        ? `${plural(refunds.value.length || 1, 'refund')} waits in Sign-off for a second person.`
        : `Posted as ${done.numbers.slice(0, 3).join(', ')}${done.numbers.length > 3 ? ' and others' : ''}.`,
    })
    await Promise.all([reload(), desk.refresh()])
    emit('posted')
  } catch (error) {
    refused.value = problemText(error)
  } finally {
    busy.value = false
  }
}
/** All that nothing stands against: no open invoices, no stop, nothing waiting. */
function chooseFree(): void {
  for (const credit of rows.value)
    if (!credit.stop && credit.owes === 0 && credit.waiting === null && !chosen.has(credit.id)) toggle(credit)
}
useKeys([
  { key: ' ', label: 'Refund it, or not', when: () => may.value, run: () => toggle(current.value) },
  { key: 'a', label: 'Choose all that nothing stands against', when: () => may.value, run: chooseFree },
  {
    key: 'k',
    label: 'Those kept to be refunded, or all',
    run: () => {
      query.only = query.only === 'asked' ? 'all' : 'asked'
    },
  },
  {
    key: 'n',
    label: 'Allocate it to open invoices instead',
    when: () => Boolean(current.value?.owes),
    run: () => {
      void navigateTo(`/accounts/${encodeURIComponent(current.value!.customer.number)}`)
    },
  },
  { key: 'Ctrl+Enter', label: 'Post the refunds', inFields: true, run: () => void post() },
])
const isChosen = (c: Refundable) => chosen.has(c.id)
const METHODS = Object.keys(REFUND_METHODS) as RefundMethod[]
</script>

<template>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[170px]"
      placeholder="Customer or number"
      label="Find a credit"
    />
    <span
      ><label class="label" for="credits-only">Show </label
      ><select id="credits-only" v-model="query.only" class="field">
        <option value="all">all credits</option>
        <option value="asked">those kept to be refunded</option>
        <option value="refundable">those nothing stands against</option>
      </select></span
    >
    <span v-if="may" class="hint"
      ><kbd>Space</kbd> choose <kbd>A</kbd> all that is free <kbd>K</kbd> kept to be refunded
      <kbd>Enter</kbd> amount and way</span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'pick', label: '', width: 34 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'number', label: 'Credit', width: 92 },
      { key: 'arose', label: 'Why it is there', cut: true, gives: 1 },
      { key: 'age', label: 'Days', num: true, width: 54 },
      { key: 'owes', label: 'They owe', num: true, width: 98, gives: 2 },
      { key: 'open', label: 'Open', num: true, width: 110 },
      { key: 'method', label: 'Back by', width: 70 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    :opened="opened"
    label="Credits"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
    @open="r => (opened = opened === r.id ? null : r.id)"
  >
    <template #cell-pick="{ row }"
      ><input
        type="checkbox"
        class="tick"
        tabindex="-1"
        :disabled="!may || row.waiting !== null"
        :checked="isChosen(row)"
        :aria-label="`Refund ${row.number}`"
        @click.stop.prevent="toggle(row)"
    /></template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span
      ><span v-if="row.waiting" class="aside ml-1.5">waits for a signature</span
      ><span v-else-if="row.stop" class="wrong ml-1.5">stopped</span></template
    >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-arose="{ row }"
      ><span :title="CREDIT_ORIGINS[row.origin]">{{ row.arose }}</span></template
    >
    <template #cell-age="{ row }">{{ row.age }}</template>
    <template #cell-owes="{ row }"
      ><span :class="row.overdue ? 'wrong' : ''"><Figure :amount="row.owes" :currency="row.currency" /></span
    ></template>
    <template #cell-open="{ row }"
      ><Figure :amount="chosen.get(row.id)?.amount ?? row.open" :currency="row.currency" /><span
        class="aside ml-1"
        >{{ row.currency }}</span
      ></template
    >
    <template #cell-method="{ row }">{{
      REFUND_METHODS[chosen.get(row.id)?.method ?? row.method].toLowerCase()
    }}</template>
    <template #under="{ row }">
      <p v-if="row.stop" class="wrong">
        {{ row.stop }}.
        <NuxtLink class="makes" :to="`/accounts/${row.customer.number}/master`">The customer</NuxtLink>
      </p>
      <p v-if="row.owes" class="text-soft">
        The account owes {{ amountText(row.owes, row.currency, true)
        }}<template v-if="row.overdue"
          >, {{ amountText(row.overdue, row.currency, true) }} of it overdue</template
        >: allocating the credit comes first.
        <NuxtLink class="makes" :to="`/accounts/${row.customer.number}`">Allocate it <kbd>N</kbd></NuxtLink>
      </p>
      <p class="text-soft">
        {{ CREDIT_ORIGINS[row.origin] }} of {{ dateText(row.date) }},
        {{ amountText(row.amount, row.currency, true) }} as posted<template v-if="row.wrote"
          >; written to on {{ dateText(row.wrote) }}</template
        >.
      </p>
      <p v-if="chosen.has(row.id)" class="flex items-baseline gap-3">
        <label class="label" :for="`part-${row.id}`">Of it goes back</label
        ><MoneyField
          :id="`part-${row.id}`"
          v-model="chosen.get(row.id)!.amount"
          :currency="row.currency"
          :max="row.open"
          label="Of it goes back"
          class="w-[120px]"
        />
        <label class="label" :for="`way-${row.id}`">by</label
        ><select :id="`way-${row.id}`" v-model="chosen.get(row.id)!.method" class="field">
          <option v-for="m in METHODS" :key="m" :value="m">{{ REFUND_METHODS[m].toLowerCase() }}</option>
        </select>
      </p>
    </template>
    <template #foot
      ><tr v-if="answer">
        <td colspan="6">
          {{ plural(answer.totals.count, 'credit')
          }}<span v-if="chosen.size" class="ml-4 font-normal text-soft"
            >{{ plural(chosen.size, 'credit') }} in {{ plural(refunds.length, 'refund') }} chosen</span
          >
        </td>
        <td class="num" colspan="2">
          <Figure :amount="answer.totals.open" :currency="answer.totals.base" zero /><span
            class="aside ml-1"
            >{{ answer.totals.base }}</span
          >
        </td>
      </tr></template
    >
    <template #empty>No credit is open: nothing to give back.</template>
  </SheetTable>
  <ProofStrip
    v-if="may"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Refund"
    after="above the limit a second person signs"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  >
    <template v-if="refunds.length > 1" #changes>
      <p v-for="[name, count] in ways" :key="name">
        {{ name }} <b class="num font-semibold">{{ count }}</b>
      </p>
      <p class="hint">to {{ plural(payees, 'customer') }}, one each per currency and way</p>
    </template>
  </ProofStrip>
</template>
