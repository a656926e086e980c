<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { COMMISSION, WRITE_OFF_REASONS, type WriteOffReason } from '~~/core/impairment/reasons'
import { contract } from '~~/contract'
import type { WriteOffRow } from '~~/contract/impairment'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'

/** What was written off, why, by whom, and what of it came back; sums by reason. */
const props = defineProps<{ customer: string }>()
const desk = useDesk()
const session = useSession()
const query = reactive({ search: '', reason: '' as WriteOffReason | '', from: '', to: '' })
const { rows, answer, loading, trouble, more, reload } = usePages<
  WriteOffRow,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query }), () => props.customer], 120)
function read(cursor: string | undefined) {
  return call(contract.impairment.list, {
    query: {
      search: query.search || undefined,
      reason: query.reason || undefined,
      from: query.from || undefined,
      to: query.to || undefined,
      customer: props.customer || undefined,
      limit: 60,
      cursor,
    },
  })
}
const { trouble: refused, guard } = useGuard()
const current = ref<WriteOffRow | null>(null)
const opened = ref<number | null>(null)
/** What is about to be taken back: a write-off, or a recovery of one. */
const undoing = ref<{ id: number; number: string; then: string } | null>(null)
const may = computed(() => session.can('impairment.post'))
const canUndo = computed(
  () =>
    may.value && Boolean(current.value?.reason) && !current.value!.undone && current.value!.recovered === 0,
)
const labelOf = (reason: WriteOffReason | null): string =>
  reason ? WRITE_OFF_REASONS[reason] : 'By a dispute'

function askUndo(row: WriteOffRow): void {
  undoing.value = { id: row.id, number: row.number, then: `${row.of.number} is open again` }
}
type Recovery = WriteOffRow['recoveries'][number]
function askUndoRecovery({ id, number, credit }: Recovery): void {
  undoing.value = { id, number, then: `${credit} has its money on account again` }
}
async function undo(reason: string): Promise<void> {
  const { id, number, then } = undoing.value!
  await guard(async () => {
    await call(contract.impairment.undo, {
      params: { id },
      body: { reason },
      key: crypto.randomUUID(),
    })
    await Promise.all([reload(), desk.refresh()])
  }, `${number} is taken back: ${then}.`)
  if (refused.value) return
  undoing.value = null
}
async function claim(): Promise<void> {
  await guard(async () => {
    const { claimed, taxBase } = await call(contract.impairment.relief, { key: crypto.randomUUID() })
    await reload()
    desk.say({
      text: claimed
        ? `Tax of ${plural(claimed, 'write-off')} claimed back: ${amountText(taxBase, session.base, true)}.`
        : 'The conditions of none hold yet.',
    })
  }, '')
}
useKeys([
  {
    key: 'u',
    label: 'Take the write-off back',
    when: () => canUndo.value,
    run: () => askUndo(current.value!),
  },
  { key: 'c', label: 'Claim tax that waits', when: () => may.value, run: () => void claim() },
])
</script>

<template>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[170px]"
      placeholder="Customer or number"
      label="Find a write-off"
    />
    <span
      ><label class="label" for="written-reason">Reason </label
      ><select id="written-reason" v-model="query.reason" class="field">
        <option value="">all</option>
        <option v-for="(label, value) in WRITE_OFF_REASONS" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="written-from">from</label
      ><DateField id="written-from" v-model="query.from" label="From" :today="session.today" /><label
        class="label"
        for="written-to"
        >to</label
      ><DateField id="written-to" v-model="query.to" label="To" :today="session.today"
    /></span>
    <span v-if="answer?.waiting.count" class="ml-auto"
      ><button class="plain" :disabled="!may" @click="claim">
        Tax of {{ plural(answer.waiting.count, 'write-off') }} waits,
        {{ amountText(answer.waiting.taxBase, answer.base, true) }} <kbd>C</kbd>
      </button></span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Write-off', width: 92 },
      { key: 'of', label: 'Of', width: 108 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'date', label: 'On', width: 98 },
      { key: 'reason', label: 'Reason', width: 138 },
      { key: 'back', label: 'Came back', num: true, width: 104 },
      { key: 'amount', label: 'Amount', num: true, width: 124 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    :opened="opened"
    label="Write-offs"
    :row-class="r => (r.undone ? 'text-faint' : '')"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
    @open="r => (opened = opened === r.id ? null : r.id)"
  >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-of="{ row }">{{ row.of.number }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-reason="{ row }">{{ row.undone ? 'taken back' : labelOf(row.reason) }}</template>
    <template #cell-back="{ row }"><Figure :amount="row.recovered" :currency="row.currency" /></template>
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #under="{ row }"
      ><p class="text-soft">
        {{ row.text }}, by {{ row.by }}{{ row.signedBy ? `, signed by ${row.signedBy}` : '' }}. To
        {{ row.against === 'allowance' ? 'what was set aside' : 'expense'
        }}<template v-if="row.commission"
          >; the commission is {{ COMMISSION[row.commission].toLowerCase() }}</template
        ><template v-if="row.tax"
          >; {{ amountText(row.tax, row.currency, true) }} of tax
          {{ { claimed: 'claimed back', waits: 'waits', none: 'lost' }[row.relief] }}:
          {{ row.reliefWhy }}</template
        >.
        <NuxtLink class="makes" :to="`/accounts/${row.customer.number}?find=${row.of.number}&state=all`"
          >On the account</NuxtLink
        >
        <button v-if="canUndo && row.id === current?.id" class="plain ml-3" @click="askUndo(row)">
          Take it back <kbd>U</kbd>
        </button>
      </p>
      <p v-for="r in row.recoveries" :key="r.id" class="text-soft">
        {{ r.number }}: {{ amountText(r.amount, row.currency, true) }} came back by {{ r.credit }} on
        {{ dateText(r.date) }}.
        <button v-if="may" class="plain ml-3" @click="askUndoRecovery(r)">Take {{ r.number }} back</button>
      </p></template
    >
    <template #foot
      ><tr v-if="answer">
        <td colspan="5">
          <span v-for="s in answer.byReason" :key="s.reason ?? ''" class="mr-4"
            >{{ labelOf(s.reason) }} {{ s.count }}:
            <b class="num font-semibold">{{ amountText(s.base, answer.base, true) }}</b></span
          ><template v-if="!answer.byReason.length">nothing written off</template>
        </td>
        <td class="num">
          <Figure :amount="answer.byReason.reduce((a, s) => a + s.recovered, 0)" :currency="answer.base" />
        </td>
        <td class="num">
          <Figure
            :amount="answer.byReason.reduce((a, s) => a + s.base, 0)"
            :currency="answer.base"
            zero
          /><span class="aside ml-1">{{ answer.base }}</span>
        </td>
      </tr></template
    >
    <template #empty>Nothing was written off.</template>
  </SheetTable>
  <BecauseForm
    v-if="undoing"
    :what="`Take ${undoing.number} back`"
    :then="`${undoing.then}, and its tax is put right`"
    @because="undo"
    @cancel="undoing = null"
  />
</template>
