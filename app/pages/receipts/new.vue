<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import type { BatchDetail } from '~~/contract/receipts/batches'
import type { MEANS } from '~~/contract/receipts'
import { useAllocation } from '~/composables/receipts/allocation'
import { readOpenItems, shareOut } from '~/composables/receipts/openItems'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, isReceived } from '~/utils/format'
import { fill, newest, settle } from '~/utils/fill'

/**
 * A receipt, at once or into a batch, or a credit that lies on account, against the open items of one
 * customer.
 */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.query.customer ?? ''))
const creditId = computed(() => Number(route.query.credit ?? 0))
const batchId = computed(() => Number(route.query.batch ?? 0))
const editId = computed(() => Number(route.query.edit ?? 0))
const batch = shallowRef<BatchDetail | null>(null)
const date = ref(session.today)
const blank = (means: (typeof MEANS)[number]) => [{ means, amount: null as number | null, reference: '' }]
const means = ref(blank('transfer'))
const pickedCurrency = ref('')
const pickedItems = ref('')
const items = ref<AccountItem[]>([])
const onAccount = ref(false)
const restUse = ref<'account' | 'item' | 'refund'>('account')
const restItem = ref<number | null>(null)
const advance = ref(false)
const typed = ref(false)
const trouble = ref('')
const busy = ref(false)
const loaded = ref(false)
let key = crypto.randomUUID()

const credit = computed(() => items.value.find(i => i.id === creditId.value) ?? null)
const currency = computed({
  get: () =>
    batch.value?.currency ||
    pickedCurrency.value ||
    credit.value?.currency ||
    (desk.card?.number === number.value ? desk.card.currency : session.base),
  set: (c: string) => {
    pickedCurrency.value = c
  },
})
/** Items may be in another currency than the money. */
const itemCurrency = computed({
  get: () => (credit.value ? currency.value : pickedItems.value || currency.value),
  set: (c: string) => {
    pickedItems.value = c
  },
})
const foreign = computed(() => itemCurrency.value !== currency.value)
const currencies = computed(() =>
  [...new Set([currency.value, session.base, ...items.value.map(i => i.currency)])].filter(Boolean),
)
const itemCurrencies = computed(() =>
  [...new Set([itemCurrency.value, ...items.value.filter(i => i.open > 0).map(i => i.currency)])].filter(
    Boolean,
  ),
)
const amount = computed(() =>
  credit.value ? -credit.value.open : means.value.reduce((a, m) => a + (m.amount ?? 0), 0),
)
const {
  chosen,
  extras,
  debits,
  assigned,
  allocations: ticked,
  late,
  toggle,
  takeDiscount,
  writeOff,
  setAmount,
  deduct,
  oldestFirst,
  clear,
} = useAllocation(
  items,
  itemCurrency,
  () => (foreign.value ? 0 : amount.value),
  () => !foreign.value && (typed.value || credit.value !== null),
)
/**
 * What of the money the ticked items take: all of it when they are in another currency, shared out by what
 * each is paid.
 */
const taken = computed(() => (foreign.value ? (assigned.value ? amount.value : 0) : assigned.value))
const rest = computed(() => amount.value - taken.value)
const allocations = computed(() => (foreign.value ? shareOut(amount.value, ticked.value) : ticked.value))
/** Credit of the account that could pay, beside the one that is used. */
const creditLying = computed(() =>
  items.value
    .filter(i => i.open < 0 && i.currency === currency.value && i.id !== creditId.value)
    .reduce((a, i) => a - i.open, 0),
)
const payer = computed(() => (desk.card?.number === number.value ? desk.card.name : number.value))
const groupSize = computed(() =>
  desk.card?.number === number.value ? desk.card.members + (desk.card.parent ? 1 : 0) : 0,
)

const asking = newest()
async function load(): Promise<void> {
  const isNewest = asking()
  loaded.value = false
  items.value = []
  clear()
  try {
    if (batchId.value && batch.value?.id !== batchId.value) await readBatch()
    if (!number.value) return
    await desk.choose(number.value)
    let all = await readOpenItems(number.value, date.value)
    // Money that lies on account earned its discount on the day it was paid.
    const own = all.find(i => i.id === creditId.value)
    if (own && isReceived(own.kind)) all = await readOpenItems(number.value, date.value, own.documentDate)
    if (!isNewest()) return
    items.value = all
    if (editId.value) refill()
    loaded.value = true
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
async function readBatch(): Promise<void> {
  await fill(batch, () => call(contract.batches.detail, { params: { id: batchId.value } }))
  if (batch.value) date.value = batch.value.date
  means.value = blank('cheque')
}
/** A receipt of the batch as it was keyed. */
function refill(): void {
  const keyed = batch.value?.receipts.find(r => r.id === editId.value)
  if (!keyed || keyed.customer.number !== number.value) return
  const { body } = keyed
  means.value = body.means.map(m => ({ ...m }))
  typed.value = true
  onAccount.value = body.onAccount > 0
  advance.value = body.advance
  for (const a of body.allocations) {
    chosen[a.itemId] = a.amount
    if (a.discount || a.difference)
      extras[a.itemId] = { discount: a.discount, difference: a.difference, late: body.lateDiscount }
  }
}
function fresh(): void {
  pickedCurrency.value = ''
  pickedItems.value = ''
  onAccount.value = false
  restUse.value = 'account'
  advance.value = false
  typed.value = false
}
watch(
  [number, creditId, batchId, editId],
  () => {
    fresh()
    void load()
  },
  { immediate: true },
)
watch(date, () => {
  void load()
})
// Picking an item first fills the amount, until somebody types one.
watch(assigned, sum => {
  if (!typed.value && !credit.value && !foreign.value && means.value.length === 1)
    means.value[0]!.amount = sum || null
})

const pairs = computed(() =>
  allocations.value.map(a => ({
    debitItemId: a.itemId,
    creditItemId: creditId.value,
    amount: a.amount,
    discount: a.discount,
    difference: a.difference,
  })),
)
const body = computed(() => ({
  customer: number.value,
  currency: currency.value,
  date: date.value,
  means: means.value.filter(m => m.amount).map(m => ({ ...m, amount: m.amount! })),
  allocations: allocations.value,
  onAccount: onAccount.value || advance.value ? Math.max(0, rest.value) : 0,
  advance: advance.value,
  lateDiscount: late.value,
  ...(onAccount.value && rest.value > 0 && restUse.value !== 'account'
    ? { rest: { use: restUse.value, itemId: restUse.value === 'item' ? restItem.value : null } }
    : {}),
}))
const reason = computed(() => {
  if (!number.value) return 'choose a customer'
  if (trouble.value) return trouble.value
  if (credit.value)
    return !assigned.value
      ? 'tick what the credit pays'
      : rest.value < 0
        ? `${amountText(-rest.value, currency.value)} more than the credit`
        : proofTrouble.value
  if (!amount.value)
    return foreign.value && assigned.value
      ? `enter what came in, in ${currency.value}`
      : 'enter the amount received, or tick what it pays'
  if (rest.value < 0) return `${amountText(-rest.value, currency.value)} more assigned than received`
  if (rest.value > 0 && !onAccount.value && !advance.value)
    return `${amountText(rest.value, currency.value)} not yet assigned`
  return proofTrouble.value
})
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(() => {
  if (!number.value || !loaded.value || !currency.value) return null
  if (credit.value)
    return pairs.value.length
      ? call(contract.receipts.previewAllocate, {
          body: { customer: number.value, date: date.value, lateDiscount: late.value, pairs: pairs.value },
        })
      : null
  return body.value.means.length ? call(contract.receipts.preview, { body: body.value }) : null
}, [body, pairs, loaded])

async function post(): Promise<void> {
  if (reason.value || busy.value || !ready.value) return
  busy.value = true
  try {
    if (credit.value) {
      await call(contract.receipts.allocate, {
        body: { customer: number.value, date: date.value, lateDiscount: late.value, pairs: pairs.value },
        key,
      })
      // Told after the account stands: who follows the link at once would be brought back otherwise.
      const told = {
        text: `${credit.value.number} allocated.`,
        to: isReceived(credit.value.kind) ? `/receipts/${creditId.value}` : `/accounts/${number.value}`,
        action: 'See or undo',
      }
      key = crypto.randomUUID()
      await desk.refresh()
      await navigateTo(`/accounts/${encodeURIComponent(number.value)}`)
      desk.say(told)
      return
    }
    const sum = amountText(amount.value, currency.value, true)
    const who = desk.card?.name ?? number.value
    if (batch.value) {
      const { id } = batch.value
      const old = batch.value.receipts.find(r => r.id === editId.value)
      await settle(batch, async () =>
        old
          ? await call(contract.batches.edit, {
              params: { id, receipt: old.id },
              body: { ...body.value, version: old.version },
            })
          : await call(contract.batches.add, { params: { id }, body: body.value }),
      )
      means.value = blank(means.value[0]!.means)
      fresh()
      await navigateTo(old ? `/receipts/batches/${id}` : { query: { batch: String(id) } })
      desk.say({
        text: `${sum} from ${who} keyed.`,
        to: `/receipts/batches/${id}`,
        action: 'The batch',
      })
      return
    }
    const done = await call(contract.receipts.post, { body: body.value, key })
    key = crypto.randomUUID()
    means.value = blank(means.value[0]!.means)
    fresh()
    await desk.refresh()
    await navigateTo('/receipts/new')
    desk.say({
      text: `${done.receipt!.number} posted, ${sum} from ${who}.`,
      to: `/receipts/${done.receipt!.id}?do=reverse`,
      action: 'Reverse',
    })
  } catch (error) {
    trouble.value = problemText(error)
    await load()
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
const pickCustomer = (n: string) =>
  navigateTo({ query: { customer: n, ...(batchId.value ? { batch: String(batchId.value) } : {}) } })
const addMeans = () => means.value.push({ means: 'cheque', amount: null, reference: '' })
const flipAccount = () => {
  onAccount.value = !onAccount.value
}
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Post',
    inFields: true,
    run: () => {
      void post()
    },
  },
  { key: 'o', label: 'Oldest first', run: oldestFirst },
  { key: 'a', label: 'Leave the rest on account', when: () => !credit.value, run: flipAccount },
  {
    key: 'h',
    label: 'An advance, before the invoice',
    when: () => !credit.value && !assigned.value,
    run: () => {
      advance.value = !advance.value
    },
  },
  { key: 'x', label: 'Take all ticks off', run: clear },
  {
    key: 'v',
    label: 'To the amount',
    when: () => !credit.value,
    run: () => document.getElementById('amount-0')?.focus(),
  },
  { key: 'w', label: 'Another payment means', when: () => !credit.value, run: addMeans },
])
</script>

<template>
  <div class="sheet-head">
    <h1>
      {{
        credit
          ? `Use ${credit.number}`
          : number
            ? `${advance ? 'Advance' : 'Receipt'} from ${payer}`
            : 'Receipt'
      }}
    </h1>
    <NuxtLink
      v-if="groupSize && !credit && !batchId"
      class="plain !py-0"
      :to="`/receipts/tick-sheet?currency=${currency}&group=${desk.card!.parent?.number ?? number}`"
      >pays for its group</NuxtLink
    >
    <NuxtLink v-if="number" class="hint makes ml-auto" :to="`/accounts/${encodeURIComponent(number)}`"
      >the account</NuxtLink
    >
  </div>
  <div
    v-if="batch"
    class="flex flex-wrap items-baseline gap-x-6 border-t border-rule px-[18px] py-1.5"
    data-test="batch"
  >
    <NuxtLink class="makes font-semibold" :to="`/receipts/batches/${batch.id}`"
      >Batch of {{ dateText(batch.date) }}</NuxtLink
    ><span
      >keyed {{ batch.count
      }}<template v-if="batch.controlCount !== null"> of {{ batch.controlCount }}</template
      >, <Figure :amount="batch.total" :currency="batch.currency" zero /></span
    ><b v-if="batch.toGo !== null" class="font-semibold" data-test="to-go"
      ><Figure :amount="batch.toGo" :currency="batch.currency" zero /> to go</b
    >
  </div>
  <div v-if="!number" class="px-[18px] pb-4">
    <CustomerPicker @pick="pickCustomer" />
    <p class="hint mt-3">
      Choose who paid; the open items follow. One payment for several customers:
      <NuxtLink class="plain" to="/receipts/tick-sheet">tick sheet</NuxtLink>. Not from a customer:
      <NuxtLink class="plain" to="/receipts/sundry">sundry money</NuxtLink>.
    </p>
  </div>
  <template v-else>
    <div v-if="credit" class="filters !border-0 pb-3">
      <span class="label"
        >{{ isReceived(credit.kind) ? 'Received' : 'Credit of' }} {{ dateText(credit.documentDate) }},
        open</span
      ><b class="font-semibold"><Figure :amount="-credit.open" :currency="currency" sign /></b
      ><span class="flex items-baseline gap-1.5"
        ><label class="label" for="paid-on">allocated on</label
        ><DateField
          id="paid-on"
          v-model="date"
          label="Allocated on"
          :today="session.today"
          :max="session.today"
      /></span>
    </div>
    <div v-else class="flex flex-wrap items-baseline gap-x-5 gap-y-2 px-[18px] pb-3 pt-1">
      <span class="flex items-baseline gap-1.5"
        ><label class="label" for="paid-on">Paid on</label
        ><DateField id="paid-on" v-model="date" label="Paid on" :today="session.today" :max="session.today"
      /></span>
      <span v-if="currencies.length > 1 && !batch" class="flex items-baseline gap-1.5"
        ><label class="label" for="currency">in</label
        ><select id="currency" v-model="currency" class="field">
          <option v-for="c in currencies" :key="c" :value="c">{{ c }}</option>
        </select></span
      >
      <span v-if="itemCurrencies.length > 1" class="flex items-baseline gap-1.5"
        ><label class="label" for="items-in">for items in</label
        ><select id="items-in" v-model="itemCurrency" class="field">
          <option v-for="c in itemCurrencies" :key="c" :value="c">{{ c }}</option>
        </select></span
      >
      <MeansFields v-model="means" :currency="currency" @typed="typed = true" @add="addMeans" />
    </div>
    <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
    <p v-if="foreign && assigned && amount" class="px-[18px] pb-1.5 text-soft">
      {{ amountText(amount, currency, true) }} for {{ amountText(assigned, itemCurrency, true) }}; the
      exchange difference shows in the Proof.
    </p>
    <AllocationTable
      :items="debits"
      :chosen="chosen"
      :extras="extras"
      :currency="itemCurrency"
      :date="credit?.documentDate ?? date"
      :tolerance="session.settings?.receiptPolicy.tolerance ?? 0"
      :authority="session.can('discount.authorise')"
      :plain="credit !== null && !isReceived(credit.kind)"
      :deductions="!credit"
      @toggle="toggle"
      @amount="setAmount"
      @discount="takeDiscount"
      @difference="writeOff"
      @deduction="deduct"
    />
    <PaymentRest
      v-model:on-account="onAccount"
      v-model:use="restUse"
      v-model:item="restItem"
      v-model:advance="advance"
      :rest="rest"
      :amount="amount"
      :currency="currency"
      :is-credit="credit !== null"
      :may-advance="!credit && !assigned"
      :debits="debits"
      :lying="creditLying"
      @oldest-first="oldestFirst"
    />
    <ProofStrip
      :proof="proof"
      :reason="reason"
      :busy="busy || pending"
      :verb="credit ? 'Allocate' : batch ? (editId ? 'Change' : 'Key it') : 'Post'"
      :after="credit || editId ? '' : batch ? 'posted when the batch closes' : 'then the next receipt'"
      :labels="session.settings?.buckets.map(b => b.label) ?? []"
      @post="post"
    />
  </template>
</template>
