<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import type { Extra } from '~/components/AllocationTable.vue'
import { MEANS } from '~~/contract/receipts'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'

/** A receipt, or a credit that lies on account, against the open items of one customer. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.query.customer ?? ''))
const creditId = computed(() => Number(route.query.credit ?? 0))
const date = ref(session.today)
const means = ref<{ means: (typeof MEANS)[number], amount: number | null, reference: string }[]>([{ means: 'transfer', amount: null, reference: '' }])
const pickedCurrency = ref('')
const items = ref<AccountItem[]>([])
const chosen = reactive<Record<number, number | null>>({})
const extras = reactive<Record<number, Extra>>({})
const onAccount = ref(false)
const typed = ref(false)
const trouble = ref('')
const busy = ref(false)
const loaded = ref(false)
let key = crypto.randomUUID()

async function load(): Promise<void> {
  loaded.value = false
  items.value = []
  for (const id of Object.keys(chosen)) chosen[Number(id)] = null
  for (const id of Object.keys(extras)) delete extras[Number(id)]
  if (!number.value) return
  try {
    await desk.choose(number.value)
    const all: AccountItem[] = []
    let cursor: string | undefined
    do {
      const page = await call(contract.accounts.items, { params: { number: number.value }, query: { state: 'open', asOf: date.value, sort: 'due', limit: 500, cursor } })
      all.push(...page.items)
      cursor = page.next ?? undefined
    } while (cursor)
    items.value = all
    loaded.value = true
    trouble.value = ''
  }
  catch (error) { trouble.value = problemText(error) }
}
watch([number, creditId], () => { pickedCurrency.value = ''; onAccount.value = false; typed.value = false; void load() }, { immediate: true })
watch(date, () => { void load() })

const credit = computed(() => items.value.find(i => i.id === creditId.value) ?? null)
const currency = computed({
  get: () => pickedCurrency.value || credit.value?.currency || (desk.card?.number === number.value ? desk.card.currency : session.base),
  set: (c: string) => { pickedCurrency.value = c },
})
const currencies = computed(() => [...new Set([currency.value, ...items.value.map(i => i.currency)])].filter(Boolean))
const debits = computed(() => items.value.filter(i => i.open > 0 && i.currency === currency.value))
const assigned = computed(() => debits.value.reduce((a, i) => a + (chosen[i.id] ?? 0), 0))
const amount = computed(() => (credit.value ? -credit.value.open : means.value.reduce((a, m) => a + (m.amount ?? 0), 0)))
const rest = computed(() => amount.value - assigned.value)

// Picking an item first fills the amount, until somebody types one.
watch(assigned, (sum) => { if (!typed.value && !credit.value && means.value.length === 1) means.value[0]!.amount = sum || null })
function toggle(item: AccountItem): void {
  delete extras[item.id]
  if (chosen[item.id]) { chosen[item.id] = null; return }
  chosen[item.id] = typed.value || credit.value ? Math.max(0, Math.min(item.open, rest.value)) || item.open : item.open
}
/** Takes the discount of an item, or leaves it: the payment is then less by it. */
function takeDiscount(item: AccountItem): void {
  if (extras[item.id]?.discount) {
    delete extras[item.id]
    chosen[item.id] = item.open
    return
  }
  const late = item.discount === null
  const discount = item.discount?.amount ?? item.offered
  extras[item.id] = { discount, difference: 0, late }
  chosen[item.id] = item.open - discount
}
/** Writes off what a payment leaves, or leaves it open. */
function writeOff(item: AccountItem): void {
  const extra = extras[item.id] ?? { discount: 0, difference: 0, late: false }
  extras[item.id] = { ...extra, difference: extra.difference ? 0 : item.open - (chosen[item.id] ?? 0) - extra.discount }
}
function setAmount(item: AccountItem, value: number | null): void {
  chosen[item.id] = value
  const extra = extras[item.id]
  if (extra) extras[item.id] = { ...extra, difference: 0, discount: value ? extra.discount : 0 }
}
function oldestFirst(): void {
  for (const id of Object.keys(extras)) delete extras[Number(id)]
  let left = amount.value || debits.value.reduce((a, i) => a + Math.max(0, i.daysLate > 0 ? i.open : 0), 0)
  for (const i of [...debits.value].sort((a, b) => (a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id))) {
    const part = Math.min(left, i.open)
    chosen[i.id] = part || null
    left -= part
  }
}
const allocations = computed(() => debits.value.filter(i => chosen[i.id]).map(i => ({ itemId: i.id, amount: chosen[i.id]!, discount: extras[i.id]?.discount ?? 0, difference: extras[i.id]?.difference ?? 0 })))
const pairs = computed(() => allocations.value.map(a => ({ debitItemId: a.itemId, creditItemId: creditId.value, amount: a.amount })))
const body = computed(() => ({
  customer: number.value, currency: currency.value, date: date.value, means: means.value.filter(m => m.amount).map(m => ({ ...m, amount: m.amount! })), allocations: allocations.value,
  onAccount: onAccount.value ? Math.max(0, rest.value) : 0, lateDiscount: debits.value.some(i => chosen[i.id] && extras[i.id]?.late),
}))
const reason = computed(() => {
  if (!number.value) return 'choose a customer'
  if (trouble.value) return trouble.value
  if (credit.value) return !assigned.value ? 'tick what the credit pays' : rest.value < 0 ? `${amountText(-rest.value, currency.value)} more than the credit` : proofTrouble.value
  if (!amount.value) return 'enter the amount received, or tick what it pays'
  if (rest.value < 0) return `${amountText(-rest.value, currency.value)} more assigned than received`
  if (rest.value > 0 && !onAccount.value) return `${amountText(rest.value, currency.value)} not yet assigned`
  return proofTrouble.value
})
const { proof, trouble: proofTrouble, pending } = useProof(() => {
  if (!number.value || !loaded.value || !currency.value) return null
  if (credit.value) return pairs.value.length ? call(contract.receipts.previewAllocate, { body: { customer: number.value, date: date.value, pairs: pairs.value } }) : null
  return body.value.means.length ? call(contract.receipts.preview, { body: body.value }) : null
}, [body, pairs, loaded])

async function post(): Promise<void> {
  if (reason.value || busy.value || pending.value || !proof.value?.ok) return
  busy.value = true
  try {
    if (credit.value) {
      await call(contract.receipts.allocate, { body: { customer: number.value, date: date.value, pairs: pairs.value }, key })
      desk.say({ text: `${credit.value.number} allocated.`, to: credit.value.kind === 'receipt' ? `/receipts/${creditId.value}` : `/accounts/${number.value}`, action: 'See or undo' })
      key = crypto.randomUUID()
      await desk.refresh()
      await navigateTo(`/accounts/${encodeURIComponent(number.value)}`)
      return
    }
    const done = await call(contract.receipts.post, { body: body.value, key })
    const text = `${done.receipt!.number} posted, ${amountText(amount.value, currency.value, true)} from ${desk.card?.name ?? number.value}.`
    key = crypto.randomUUID()
    const kept = means.value[0]!.means
    means.value = [{ means: kept, amount: null, reference: '' }]
    onAccount.value = false
    typed.value = false
    await desk.refresh()
    await navigateTo('/receipts/new')
    desk.say({ text, to: `/receipts/${done.receipt!.id}?do=reverse`, action: 'Reverse' })
  }
  catch (error) {
    trouble.value = problemText(error)
    await load().then(() => { trouble.value = problemText(error) })
  }
  finally { busy.value = false }
}
const addMeans = () => means.value.push({ means: 'cheque', amount: null, reference: '' })
useKeys([
  { key: 'Ctrl+Enter', label: credit.value ? 'Allocate' : 'Post the receipt', inFields: true, run: () => { void post() } },
  { key: 'o', label: 'Oldest first', run: oldestFirst },
  { key: 'a', label: 'Leave the rest on account', when: () => !credit.value, run: () => { onAccount.value = !onAccount.value } },
  { key: 'x', label: 'Take all ticks off', run: () => { for (const i of debits.value) { chosen[i.id] = null; delete extras[i.id] } } },
  { key: 'v', label: 'To the amount', when: () => !credit.value, run: () => document.getElementById('amount-0')?.focus() },
  { key: 'w', label: 'Another payment means', when: () => !credit.value, run: addMeans },
])
</script>

<template>
  <div class="sheet-head"><h1>{{ credit ? `Use ${credit.number}` : number ? `Receipt from ${desk.card?.number === number ? desk.card.name : number}` : 'Receipt' }}</h1><NuxtLink v-if="number" class="hint makes ml-auto" :to="`/accounts/${encodeURIComponent(number)}`">the account</NuxtLink></div>
  <div v-if="!number" class="px-[18px] pb-4"><CustomerPicker @pick="n => navigateTo({ query: { customer: n } })" /><p class="hint mt-3">Choose who paid; the open items follow.</p></div>
  <template v-else>
    <div v-if="credit" class="filters !border-0 pb-3"><span class="label">{{ credit.kind === 'receipt' ? 'Received' : 'Credit of' }} {{ dateText(credit.documentDate) }}, open</span><b class="font-semibold"><Figure :amount="-credit.open" :currency="currency" sign /></b><span class="flex items-baseline gap-1.5"><label class="label" for="paid-on">allocated on</label><DateField id="paid-on" v-model="date" label="Allocated on" :today="session.today" :max="session.today" /></span></div>
    <div v-else class="flex flex-wrap items-baseline gap-x-5 gap-y-2 px-[18px] pb-3 pt-1">
      <span class="flex items-baseline gap-1.5"><label class="label" for="paid-on">Paid on</label><DateField id="paid-on" v-model="date" label="Paid on" :today="session.today" :max="session.today" /></span>
      <span v-if="currencies.length > 1" class="flex items-baseline gap-1.5"><label class="label" for="currency">in</label><select id="currency" v-model="currency" class="field"><option v-for="c in currencies" :key="c" :value="c">{{ c }}</option></select></span>
      <div class="flex flex-col gap-1.5">
        <div v-for="(m, n) in means" :key="n" class="flex items-baseline gap-4">
          <span class="flex items-baseline gap-1.5"><label class="label" :for="`amount-${n}`">Amount</label><MoneyField :id="`amount-${n}`" v-model="m.amount" v-focus :currency="currency" label="Amount received" @input="typed = true" /><span class="aside">{{ currency }}</span></span>
          <span class="flex items-baseline gap-1.5"><label class="label" :for="`means-${n}`">by</label><select :id="`means-${n}`" v-model="m.means" class="field"><option v-for="k in MEANS" :key="k" :value="k">{{ k }}</option></select></span>
          <span class="flex items-baseline gap-1.5"><label class="label" :for="`reference-${n}`">{{ m.means === 'cheque' ? 'Number' : 'Reference' }}</label><input :id="`reference-${n}`" v-model="m.reference" class="field w-[150px]" maxlength="80" autocomplete="off"></span>
          <button v-if="means.length > 1" class="hint" :aria-label="`Remove payment means ${n + 1}`" @click="means.splice(n, 1)">remove</button>
          <button v-if="n === means.length - 1" class="plain !py-0" @click="addMeans">and <kbd>W</kbd></button>
        </div>
      </div>
    </div>
    <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
    <AllocationTable :items="debits" :chosen="chosen" :extras="extras" :currency="currency" :date="date" :tolerance="session.settings?.receiptPolicy.tolerance ?? 0" :authority="session.can('discount.authorise')" :plain="credit !== null" @toggle="toggle" @amount="setAmount" @discount="takeDiscount" @difference="writeOff" />
    <p class="flex flex-wrap items-center gap-x-5 border-t border-rule px-[18px] py-2 text-soft" aria-live="polite">
      <b class="font-semibold text-ink" data-test="rest"><template v-if="rest === 0 && amount">All assigned.</template><template v-else-if="rest < 0">{{ amountText(-rest, currency) }} more than received.</template><template v-else-if="onAccount && rest">{{ amountText(rest, currency) }} stays on account.</template><template v-else>{{ amountText(rest, currency) }} not yet assigned.</template></b>
      <button class="plain !py-0" @click="oldestFirst">Oldest first <kbd>O</kbd></button>
      <label v-if="!credit" class="flex items-center gap-1.5"><input v-model="onAccount" type="checkbox" class="tick"> Leave the rest on account <kbd>A</kbd></label>
      <span v-if="items.some(i => i.open < 0 && i.id !== creditId)" class="hint">{{ amountText(-items.filter(i => i.open < 0 && i.currency === currency && i.id !== creditId).reduce((a, i) => a + i.open, 0), currency) }} of credit lies on the account already</span>
    </p>
    <ProofStrip :proof="proof" :reason="reason" :busy="busy || pending" :verb="credit ? 'Allocate' : 'Post'" :after="credit ? '' : 'then the next receipt'" :labels="session.settings?.buckets.map(b => b.label) ?? []" @post="post" />
  </template>
</template>
