<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ClaimsAnswer } from '~~/contract/reminders'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** What the law of the debtor's country gives for late payment: chosen, proved, claimed with a letter. */
type Row = ClaimsAnswer['items'][number]
const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.query.customer ?? ''))
const answer = ref<ClaimsAnswer | null>(null)
const left = ref(new Set<number>())
const what = ref({ interest: true, compensation: true, letter: true })
const opened = ref<number | null>(null)
const current = ref<Row | null>(null)
const busy = ref(false)
let key = crypto.randomUUID()
const { trouble, complain } = useGuard()
async function load(): Promise<void> {
  if (!number.value) return
  try {
    await fill(answer, () => call(contract.reminders.claims, { params: { number: number.value } }))
    left.value = new Set()
    desk.choose(number.value)
  } catch (error) {
    complain(error)
  }
}
watch(number, load, { immediate: true })
const rows = computed(() => answer.value?.items ?? [])
const chosen = computed(() => rows.value.filter(r => !left.value.has(r.itemId)))
const body = computed(() => ({ itemIds: chosen.value.map(r => r.itemId), ...what.value }))
const { proof, pending, ready } = useProof(
  () =>
    chosen.value.length && session.can('reminders.run')
      ? call(contract.reminders.claimProof, { params: { number: number.value }, body: body.value })
      : null,
  [body],
)
function toggle(row: Row): void {
  const next = new Set(left.value)
  if (!next.delete(row.itemId)) next.add(row.itemId)
  left.value = next
}
const sum = (of: (r: Row) => number) => chosen.value.reduce((a, r) => a + of(r), 0)
async function claim(): Promise<void> {
  if (busy.value || !ready.value || !chosen.value.length) return
  busy.value = true
  try {
    const { numbers } = await call(contract.reminders.claim, {
      params: { number: number.value },
      body: body.value,
      key,
    })
    key = crypto.randomUUID()
    trouble.value = ''
    desk.say({ text: `Claimed: ${numbers.join(', ')}.`, to: '/outbox', action: 'See the letter' })
    await Promise.all([load(), desk.refresh()])
  } catch (error) {
    complain(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  {
    key: ' ',
    label: 'Claim for the item, or not',
    when: () => current.value !== null,
    run: () => toggle(current.value!),
  },
  { key: 'Ctrl+Enter', label: 'Claim', inFields: true, run: () => void claim() },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Claims by law</h1>
    <span v-if="answer?.law" class="text-soft"
      >{{ desk.card?.name ?? number }}, {{ answer.country }}: {{ answer.law }}, as of
      {{ dateText(answer.asOf) }}</span
    >
    <NuxtLink class="plain ml-auto" :to="`/accounts/${encodeURIComponent(number)}`">The account</NuxtLink>
  </div>
  <p v-if="trouble || answer?.trouble" class="wrong px-[18px]" role="alert">
    {{ trouble || answer?.trouble }}
  </p>
  <div v-if="session.can('reminders.run')" class="filters">
    <label class="flex items-center gap-1.5"
      ><input v-model="what.interest" type="checkbox" class="tick" /> interest</label
    ><label class="flex items-center gap-1.5"
      ><input v-model="what.compensation" type="checkbox" class="tick" /> fixed compensation</label
    ><label class="flex items-center gap-1.5"
      ><input v-model="what.letter" type="checkbox" class="tick" /> with a letter</label
    ><span class="hint"><kbd>Space</kbd> waive it for an item</span>
  </div>
  <SheetTable
    :columns="[
      { key: 'take', label: 'Claim', width: 54 },
      { key: 'number', label: 'Item' },
      { key: 'late', label: 'Days late', num: true, width: 80 },
      { key: 'open', label: 'Open', num: true, width: 150 },
      { key: 'interest', label: 'Interest', num: true, width: 120 },
      { key: 'compensation', label: 'Compensation', num: true, width: 130 },
    ]"
    :rows="rows"
    :row-key="r => r.itemId"
    :loading="!answer && !trouble && Boolean(number)"
    label="Claims"
    :opened="opened"
    :row-class="r => (left.has(r.itemId) ? 'text-faint' : '')"
    @cursor="r => (current = r)"
    @open="r => (opened = opened === r.itemId ? null : r.itemId)"
  >
    <template #cell-take="{ row }">{{ left.has(row.itemId) ? 'no' : 'yes' }}</template>
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-late="{ row }">{{ row.daysLate }}</template>
    <template #cell-open="{ row }"
      ><Figure :amount="row.open" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-interest="{ row }"
      ><Figure :amount="row.interestAmount" :currency="row.currency"
    /></template>
    <template #cell-compensation="{ row }"
      ><Figure :amount="row.compensation" :currency="answer!.currency"
    /></template>
    <template #under="{ row }"
      ><table class="ml-2" aria-label="Interest by period">
        <tbody>
          <tr v-for="l in row.interest" :key="l.from">
            <td class="!h-6 !border-0">{{ dateText(l.from) }} to {{ dateText(l.to) }}</td>
            <td class="num !h-6 !border-0">{{ l.days }} days</td>
            <td class="num !h-6 !border-0">{{ l.rate }} %</td>
            <td class="num !h-6 !border-0">on <Figure :amount="l.base" :currency="row.currency" /></td>
            <td class="num !h-6 !border-0"><Figure :amount="l.amount" :currency="row.currency" /></td>
          </tr>
          <tr v-if="!row.interest.length">
            <td class="!h-6 !border-0 text-soft">Its interest was charged up to today.</td>
          </tr>
        </tbody>
      </table></template
    >
    <template #foot
      ><tr>
        <td colspan="4">{{ chosen.length }} of {{ rows.length }}</td>
        <td class="num">
          <Figure :amount="sum(r => r.interestAmount)" :currency="rows[0]?.currency ?? 'EUR'" />
        </td>
        <td class="num">
          <Figure :amount="sum(r => r.compensation)" :currency="answer?.currency || 'EUR'" />
        </td></tr
    ></template>
    <template #empty>{{
      number ? 'Nothing of this account is late.' : 'Open an account and choose “By law” there.'
    }}</template>
  </SheetTable>
  <ProofStrip
    v-if="session.can('reminders.run')"
    :proof="proof"
    :reason="chosen.length ? '' : 'choose what is claimed'"
    verb="Claim"
    :busy="busy || pending"
    :labels="[]"
    @post="claim"
  />
</template>
