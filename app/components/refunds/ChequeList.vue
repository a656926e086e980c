<script setup lang="ts">
import { reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { ChequeRow } from '~~/contract/refunds'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText } from '~/utils/format'

/** Cheques that were written for refunds: cashed, void, or on their way. */
const desk = useDesk()
const session = useSession()
const query = reactive({ state: 'all' as 'open' | 'all', search: '' })
const { rows, answer, loading, trouble, more, reload } = usePages<
  ChequeRow,
  { items: ChequeRow[]; next: string | null }
>(
  cursor =>
    call(contract.refunds.cheques, {
      query: { state: query.state, search: query.search || undefined, limit: 60, cursor },
    }),
  [() => ({ ...query })],
  120,
)
const { trouble: refused, guard } = useGuard()
const current = ref<ChequeRow | null>(null)
const asks = ref<'void' | 'again' | null>(null)
const canVoid = () =>
  Boolean(
    current.value && current.value.voidOn === null && !current.value.cashed && session.can('refunds.post'),
  )
/** Voids the cheque; `again`: and writes another for the same refund. */
async function voidIt(reason: string): Promise<void> {
  const { id, refund, number } = current.value!
  const again = asks.value === 'again'
  await guard(
    async () => {
      await call(contract.refunds.voidCheque, { params: { id }, body: { reason } })
      if (again)
        await call(contract.refunds.writeCheque, {
          params: { id: refund.id },
          body: {},
          key: crypto.randomUUID(),
        })
      await reload()
    },
    again ? `Cheque ${number} is void, another is written.` : `Cheque ${number} is void.`,
  )
  if (refused.value) return
  asks.value = null
}
const stateOf = (c: ChequeRow) =>
  c.voidOn
    ? `void since ${dateText(c.voidOn)}: ${c.voidWhy}`
    : c.cashed
      ? 'cashed'
      : c.late
        ? 'not cashed, late'
        : 'on its way'
useKeys([
  {
    key: 'v',
    label: 'Void the cheque',
    when: canVoid,
    run: () => {
      asks.value = 'void'
    },
  },
  {
    key: 'r',
    label: 'Void it and write another',
    when: canVoid,
    run: () => {
      asks.value = 'again'
    },
  },
  {
    key: 'l',
    label: 'Print the cheque',
    when: () => Boolean(current.value && current.value.voidOn === null),
    run: () => {
      window.open(urlOf(contract.refunds.chequePdf, { id: current.value!.id }), '_blank')
    },
  },
])
</script>

<template>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[170px]"
      placeholder="Number or customer"
      label="Find a cheque"
    />
    <label class="flex min-h-6 items-center gap-1.5"
      ><input
        type="checkbox"
        class="tick"
        :checked="query.state === 'open'"
        @change="query.state = query.state === 'open' ? 'all' : 'open'"
      />
      not cashed only</label
    >
    <span class="hint"><kbd>L</kbd> print <kbd>V</kbd> void <kbd>R</kbd> void and write another</span>
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Cheque', width: 96 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'refund', label: 'Refund', width: 96 },
      { key: 'issued', label: 'Written', width: 100 },
      { key: 'account', label: 'On', width: 130, gives: 1 },
      { key: 'state', label: 'Where it stands', cut: true },
      { key: 'amount', label: 'Amount', num: true, width: 128 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Cheques"
    :row-class="r => (r.voidOn ? 'text-faint line-through decoration-faint' : '')"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
  >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-refund="{ row }">{{ row.refund.number }}</template>
    <template #cell-issued="{ row }">{{ dateText(row.issuedOn) }}</template>
    <template #cell-account="{ row }">{{ row.account }}</template>
    <template #cell-state="{ row }"
      ><span :class="row.late ? 'wrong' : ''">{{ stateOf(row) }}</span></template
    >
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #empty>No cheque was written.</template>
  </SheetTable>
  <BecauseForm
    v-if="asks && current"
    :what="`Cheque ${current.number} is void`"
    :verb="asks === 'again' ? 'Void it and write another' : 'Void it'"
    label="Why it is void"
    @because="voidIt"
    @cancel="asks = null"
  />
</template>
