<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import { MEANS, type SundryRow } from '~~/contract/receipts'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'

definePageMeta({ noCard: true })
/**
 * Money that is no customer's and not at the bank yet: to a ledger account; cash and cheques lie in the Tray
 * then.
 */
const desk = useDesk()
const session = useSession()
const { rows, answer, loading, more, reload } = usePages<SundryRow, Awaited<ReturnType<typeof read>>>(
  read,
  [],
)
function read(cursor: string | undefined) {
  return call(contract.receipts.sundry, { query: { limit: 100, cursor } })
}
const blank = () => ({
  date: session.today,
  currency: session.base,
  amount: null as number | null,
  means: 'cheque' as (typeof MEANS)[number],
  reference: '',
  payer: '',
  text: '',
  account: '',
})
const form = reactive(blank())
const trouble = ref('')
const busy = ref(false)
const voiding = ref<SundryRow | null>(null)
const reason = ref('')
const current = ref<SundryRow | null>(null)
let key = crypto.randomUUID()
const accounts = computed(() =>
  (session.settings?.chart ?? []).filter(
    a => !['receivables', 'advances', 'on-hand', 'clearing', 'bank', 'petty-cash'].includes(a.purpose ?? ''),
  ),
)
const body = computed(() => ({ ...form, amount: form.amount ?? 0 }))
const off = computed(() =>
  !form.amount
    ? 'enter the amount'
    : !form.payer.trim()
      ? 'say who paid'
      : !form.account
        ? 'choose the ledger account'
        : proofTrouble.value,
)
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () =>
    form.amount && form.payer.trim() && form.account
      ? call(contract.receipts.previewSundry, { body: body.value })
      : null,
  [body],
)
async function post(): Promise<void> {
  if (off.value || busy.value || !ready.value) return
  busy.value = true
  try {
    const done = await call(contract.receipts.postSundry, { body: body.value, key })
    key = crypto.randomUUID()
    desk.say({
      text: `${done.number} posted, ${amountText(done.amount, done.currency, true)} from ${done.payer}.`,
      to: `/books/journal?number=${done.entry}`,
      action: 'See the entry',
    })
    Object.assign(form, { ...blank(), means: form.means, account: form.account })
    trouble.value = ''
    await reload()
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
async function takeBack(): Promise<void> {
  try {
    await call(contract.receipts.voidSundry, {
      params: { id: voiding.value!.id },
      body: { reason: reason.value },
    })
    desk.say({ text: `${voiding.value!.number} taken back.` })
    voiding.value = null
    trouble.value = ''
    await reload()
  } catch (error) {
    trouble.value = problemText(error)
  }
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
  {
    key: 'u',
    label: 'Take it back',
    when: () => Boolean(current.value && !current.value.voided && session.can('receipts.correct')),
    run: () => {
      voiding.value = current.value
      reason.value = ''
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Sundry money</h1>
    <span class="text-soft"
      >What is no customer’s: an insurer’s cheque, a refund in cash. It goes to a ledger account.</span
    >
  </div>
  <div class="filters">
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="amount">Amount</label
      ><MoneyField
        id="amount"
        v-model="form.amount"
        v-focus
        :currency="form.currency"
        label="Amount received" /><input
        v-model="form.currency"
        class="field w-14"
        aria-label="Currency"
        maxlength="3"
    /></span>
    <span
      ><label class="label" for="by">by </label
      ><select id="by" v-model="form.means" class="field">
        <option v-for="k in MEANS" :key="k" :value="k">{{ k }}</option>
      </select></span
    >
    <input
      v-model="form.reference"
      class="field w-[110px]"
      placeholder="Number"
      aria-label="Reference"
      maxlength="80"
    />
    <input
      v-model="form.payer"
      class="field w-[170px]"
      placeholder="From whom"
      aria-label="From whom"
      maxlength="160"
    />
    <span
      ><label class="label" for="to">to </label
      ><select id="to" v-model="form.account" class="field">
        <option value="">ledger account</option>
        <option v-for="a in accounts" :key="a.number" :value="a.number">{{ a.number }} {{ a.name }}</option>
      </select></span
    >
    <input
      v-model="form.text"
      class="field w-[170px]"
      placeholder="What for (optional)"
      aria-label="What for"
      maxlength="200"
    />
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="on">on</label
      ><DateField id="on" v-model="form.date" label="Received on" :today="session.today" :max="session.today"
    /></span>
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Receipt', width: 84 },
      { key: 'date', label: 'On', width: 100 },
      { key: 'payer', label: 'From', cut: true },
      { key: 'means', label: 'By', width: 150 },
      { key: 'account', label: 'To', cut: true },
      { key: 'amount', label: 'Amount', num: true, width: 130 },
      { key: 'do', label: '', width: 90 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Sundry money"
    @more="more"
    @cursor="
      r => {
        current = r
      }
    "
    @open="r => navigateTo(`/books/journal?number=${r.entry}`)"
  >
    <template #cell-number="{ row }"
      ><span class="font-semibold">{{ row.number }}</span></template
    ><template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-payer="{ row }"
      ><span v-if="row.voided" class="wrong">taken back </span>{{ row.payer }}
      <span class="text-soft">{{ row.text }}</span></template
    ><template #cell-means="{ row }">{{ row.means }} {{ row.reference }}</template>
    <template #cell-account="{ row }">{{ row.account }} {{ row.accountName }}</template
    ><template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-do="{ row }"
      ><button
        v-if="!row.voided && session.can('receipts.correct')"
        class="makes text-accent"
        tabindex="-1"
        @click.stop="
          () => {
            voiding = row
            reason = ''
          }
        "
      >
        take back
      </button></template
    >
    <template #empty>None yet.</template>
  </SheetTable>
  <form v-if="voiding" class="filters" @submit.prevent="takeBack">
    <b class="font-semibold">Take back {{ voiding.number }}</b
    ><input
      v-model="reason"
      v-focus
      class="field w-[260px]"
      placeholder="Why"
      aria-label="Reason"
      required
      maxlength="200"
    /><button class="plain">Take back</button
    ><button type="button" class="hint" @click="voiding = null">Leave</button>
  </form>
  <ProofStrip
    v-if="session.can('receipts.post')"
    :proof="proof"
    :reason="off"
    :busy="busy || pending"
    verb="Post"
    after="then the next"
    :labels="[]"
    @post="post"
  />
</template>
