<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import {
  COMMISSION,
  WRITE_OFF_REASONS,
  type Commission,
  type WriteOffReason,
} from '~~/core/impairment/reasons'
import { contract } from '~~/contract'
import type { LossCandidate } from '~~/contract/impairment'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, kindText, plural } from '~/utils/format'

/** Claims that may be given up: ticked, with one reason, proved and posted together. */
const props = defineProps<{ customer: string; item: number }>()
const desk = useDesk()
const session = useSession()
const policy = computed(() => session.settings?.impairmentPolicy)
const query = reactive({
  search: '',
  only: (props.customer ? 'all' : 'small') as 'small' | 'late' | 'all',
})
const { rows, answer, loading, trouble, more, reload } = usePages<
  LossCandidate,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query }), () => props.customer, policy], 120)
function read(cursor: string | undefined) {
  const small = query.only === 'small' ? { most: policy.value?.smallMost, days: policy.value?.smallDays } : {}
  return call(contract.impairment.candidates, {
    query: {
      ...small,
      ...(query.only === 'late' ? { days: 365 } : {}),
      search: query.search || undefined,
      customer: props.customer || undefined,
      limit: 80,
      cursor,
    },
  })
}
const current = ref<LossCandidate | null>(null)
const opened = ref<number | null>(null)
const chosen = reactive(new Map<number, { item: LossCandidate; amount: number }>())
const ask = reactive({
  reason: (props.customer ? 'uncollectable' : 'small') as WriteOffReason,
  text: '',
  commission: '' as Commission | '',
  against: '' as '' | 'expense' | 'allowance',
})
const busy = ref(false)
const refused = ref('')
let key = crypto.randomUUID()
const may = computed(() => session.can('impairment.post'))
const whyField = ref<HTMLInputElement | null>(null)

function toggle(item: LossCandidate | null): void {
  if (!item || !may.value || item.stop) return
  if (chosen.has(item.id)) chosen.delete(item.id)
  else chosen.set(item.id, { item, amount: item.open })
}
// Coming from an item of an account, that one is chosen.
watch(rows, list => {
  const named = list.find(r => r.id === props.item)
  if (named && !chosen.size) toggle(named)
})
function chooseAll(): void {
  for (const item of rows.value) if (!chosen.has(item.id)) toggle(item)
}
const parts = computed(() =>
  [...chosen.values()].map(({ item, amount }) => ({
    itemId: item.id,
    ...(amount === item.open ? {} : { amount }),
  })),
)
const setAside = computed(() => answer.value?.totals.setAside ?? 0)
/** What was judged by name is lost against what was set aside for it; the rest is expense, unless said. */
const against = computed(() => {
  if (ask.against) return ask.against
  const all = [...chosen.values()]
  const isNamed = all.length > 0 && all.every(({ item }) => item.named)
  return isNamed && sum.value <= setAside.value ? 'allowance' : 'expense'
})
const missing = computed(() => {
  if (!chosen.size) return 'tick what is lost'
  if (!ask.text.trim()) return 'say why in a few words'
  return ask.commission ? '' : 'say what becomes of the commission'
})
const body = computed(() =>
  missing.value || !ask.commission
    ? null
    : {
        items: parts.value,
        reason: ask.reason,
        text: ask.text,
        commission: ask.commission,
        against: against.value,
      },
)
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(() => (body.value ? call(contract.impairment.proof, { body: body.value }) : null), [body])
const reason = computed(() => missing.value || proofTrouble.value)
const sum = computed(() => [...chosen.values()].reduce((a, { item, amount }) => a + baseOf(item, amount), 0))
const baseOf = (item: LossCandidate, amount: number): number =>
  item.open ? Math.round((item.baseOpen * amount) / item.open) : 0

async function post(): Promise<void> {
  if (!body.value || busy.value || !ready.value) return
  busy.value = true
  try {
    const done = await call(contract.impairment.writeOff, { body: body.value, key })
    key = crypto.randomUUID()
    const count = chosen.size
    chosen.clear()
    ask.text = ''
    ask.against = ''
    refused.value = ''
    desk.say({
      text: done.waiting
        ? `${plural(count, 'item')} wait in Sign-off for a second person.`
        : `Written off as ${done.numbers.slice(0, 3).join(', ')}${done.numbers.length > 3 ? ' and others' : ''}.`,
    })
    await Promise.all([reload(), desk.refresh()])
  } catch (error) {
    refused.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  { key: ' ', label: 'Write it off, or not', when: () => may.value, run: () => toggle(current.value) },
  { key: 'a', label: 'Choose all in sight', when: () => may.value, run: chooseAll },
  { key: 'w', label: 'Say why', when: () => may.value, run: () => whyField.value?.focus() },
  { key: 'Ctrl+Enter', label: 'Post the write-off', inFields: true, run: () => void post() },
])
const ONLY = computed(() => ({
  small: `small and old: ${amountText(policy.value?.smallMost ?? 0, session.base, true)} or less, ${policy.value?.smallDays ?? 0} days late`,
  late: 'more than a year late',
  all: 'all that is open',
}))
</script>

<template>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[170px]"
      placeholder="Customer or number"
      label="Find an item"
    />
    <span
      ><label class="label" for="loss-only">Show </label
      ><select id="loss-only" v-model="query.only" class="field">
        <option v-for="(label, value) in ONLY" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span v-if="may" class="hint"
      ><kbd>Space</kbd> choose <kbd>A</kbd> all in sight <kbd>Enter</kbd> a part of it <kbd>W</kbd> why</span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'pick', label: '', width: 34 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'number', label: 'Item', width: 108 },
      { key: 'due', label: 'Due', width: 98 },
      { key: 'late', label: 'Days late', num: true, width: 76 },
      { key: 'level', label: 'Level', num: true, width: 54, title: 'of the last reminder', gives: 1 },
      { key: 'amount', label: 'Amount', num: true, width: 110, gives: 2 },
      { key: 'open', label: 'Open', num: true, width: 124 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    :opened="opened"
    label="Claims that may be lost"
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
        :disabled="!may || row.stop !== ''"
        :checked="chosen.has(row.id)"
        :aria-label="`Write off ${row.number}`"
        @click.stop.prevent="toggle(row)"
    /></template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span
      ><span v-if="row.named" class="aside ml-1.5">judged by name</span
      ><span v-if="row.stop" class="wrong ml-1.5">{{ row.stop }}</span></template
    >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-due="{ row }">{{ dateText(row.due) }}</template>
    <template #cell-late="{ row }">{{ row.daysLate || '' }}</template>
    <template #cell-level="{ row }">{{ row.level || '' }}</template>
    <template #cell-amount="{ row }"><Figure :amount="row.amount" :currency="row.currency" /></template>
    <template #cell-open="{ row }"
      ><Figure :amount="chosen.get(row.id)?.amount ?? row.open" :currency="row.currency" /><span
        class="aside ml-1"
        >{{ row.currency }}</span
      ></template
    >
    <template #under="{ row }">
      <p class="text-soft">
        {{ kindText(row.kind) }} of {{ dateText(row.date) }},
        {{ amountText(row.amount, row.currency, true) }} as posted.
        <NuxtLink class="makes" :to="`/accounts/${row.customer.number}?find=${row.number}`"
          >On the account</NuxtLink
        >
      </p>
      <p v-if="chosen.has(row.id)" class="flex items-baseline gap-3">
        <label class="label" :for="`loss-${row.id}`">Of it is lost</label
        ><MoneyField
          :id="`loss-${row.id}`"
          v-model="chosen.get(row.id)!.amount"
          :currency="row.currency"
          :max="row.open"
          label="Of it is lost"
          class="w-[120px]"
        />
      </p>
    </template>
    <template #foot
      ><tr v-if="answer">
        <td colspan="6">
          {{ plural(answer.totals.count, 'item')
          }}<span v-if="chosen.size" class="ml-4 font-normal text-soft"
            >{{ plural(chosen.size, 'item') }} chosen, {{ amountText(sum, answer.totals.base, true) }}</span
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
    <template #empty>{{
      query.only === 'small' ? 'No small balance is old enough: Setup says from when.' : 'Nothing is open.'
    }}</template>
  </SheetTable>
  <div v-if="may" class="filters border-t border-rule !py-2">
    <span
      ><label class="label" for="loss-reason">Lost because </label
      ><select id="loss-reason" v-model="ask.reason" class="field">
        <option v-for="(label, value) in WRITE_OFF_REASONS" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <input
      ref="whyField"
      v-model="ask.text"
      class="field w-[200px]"
      maxlength="200"
      placeholder="why, in a few words"
      aria-label="Why, in a few words"
    />
    <span
      ><label class="label" for="loss-commission">Commission </label
      ><select id="loss-commission" v-model="ask.commission" class="field">
        <option value="" disabled>is kept, or taken back?</option>
        <option v-for="(label, value) in COMMISSION" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span v-if="setAside > 0"
      ><label class="label" for="loss-against">To </label
      ><select
        id="loss-against"
        class="field"
        :value="against"
        @change="ask.against = ($event.target as HTMLSelectElement).value as 'expense' | 'allowance'"
      >
        <option value="expense">expense</option>
        <option value="allowance">what is set aside, {{ amountText(setAside, session.base) }}</option>
      </select></span
    >
  </div>
  <ProofStrip
    v-if="may"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Write off"
    after="above the limit a second person signs"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
