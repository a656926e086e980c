<script setup lang="ts">
import { ref } from 'vue'
import { FILE_STATES } from '~~/core/payments'
import { contract } from '~~/contract'
import type { PaymentFileRow } from '~~/contract/payments'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText, timeText } from '~/utils/format'

/** Files of payments: made and checked, given to the bank, answered. */
const props = defineProps<{ kind: 'transfer' | 'debit' }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const { rows, answer, loading, trouble, more, reload } = usePages<
  PaymentFileRow,
  { items: PaymentFileRow[]; next: string | null }
>(
  cursor => call(contract.payments.files, { query: { kind: props.kind, limit: 40, cursor } }),
  [() => props.kind],
)
const { trouble: refused, guard } = useGuard()
const current = ref<PaymentFileRow | null>(null)
const taking = ref(false)
const may = () => session.can('payments.send')
const canSend = () => may() && current.value?.state === 'made'
const canTake = () => may() && (current.value?.state === 'made' || current.value?.state === 'sent')
async function send(file: PaymentFileRow | null): Promise<void> {
  if (file?.state !== 'made') return
  await guard(async () => {
    await call(contract.payments.send, { params: { id: file.id } })
    await reload()
    emit('changed')
  }, `${file.number} is with the bank.`)
}
async function takeBack(reason: string): Promise<void> {
  const { id, number } = current.value!
  await guard(async () => {
    await call(contract.payments.takeBack, { params: { id }, body: { reason } })
    await reload()
    emit('changed')
  }, `${number} is taken back: its payments wait again.`)
  if (refused.value) return
  taking.value = false
}
useKeys([
  { key: 'g', label: 'Give the file to the bank', when: canSend, run: () => void send(current.value) },
  {
    key: 'b',
    label: 'Take the file back',
    when: canTake,
    run: () => {
      taking.value = true
    },
  },
  {
    key: 'x',
    label: 'Download the file',
    when: () => current.value !== null,
    run: () => {
      window.open(urlOf(contract.payments.file, { id: current.value!.id }), '_blank')
    },
  },
])
</script>

<template>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <div class="filters">
    <span class="hint"
      ><kbd>G</kbd> give it to the bank, once <kbd>B</kbd> take it back whole <kbd>X</kbd> download</span
    >
  </div>
  <SheetTable
    :columns="[
      { key: 'number', label: 'File', width: 92 },
      { key: 'format', label: 'Format', width: 138, gives: 1 },
      { key: 'account', label: 'On', cut: true },
      { key: 'executeOn', label: 'For', width: 98 },
      { key: 'state', label: 'Where it stands', cut: true },
      { key: 'payments', label: 'Payments', num: true, width: 80 },
      { key: 'total', label: 'Control sum', num: true, width: 136 },
      { key: 'send', label: '', width: 120 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Files of payments"
    :row-class="r => (r.state === 'taken-back' || r.state === 'rejected' ? 'text-faint' : '')"
    @more="more"
    @cursor="r => (current = r)"
  >
    <template #cell-number="{ row }"
      ><a class="makes" tabindex="-1" :href="urlOf(contract.payments.file, { id: row.id })" @click.stop>{{
        row.number
      }}</a></template
    >
    <template #cell-format="{ row }"
      >{{ row.format }}<span v-if="row.scheme" class="aside ml-1">{{ row.scheme }}</span></template
    >
    <template #cell-account="{ row }">{{ row.account }}</template>
    <template #cell-executeOn="{ row }">{{ dateText(row.executeOn) }}</template>
    <template #cell-state="{ row }"
      ><span :class="row.state === 'rejected' || row.state === 'partly' ? 'wrong' : ''">{{
        FILE_STATES[row.state]
      }}</span
      ><span v-if="row.reason" class="aside ml-1.5">{{ row.reason }}</span
      ><span v-else-if="row.sentBy" class="aside ml-1.5"
        >by {{ row.sentBy }}, {{ timeText(row.sentAt ?? '') }}</span
      ><span v-else class="aside ml-1.5">made by {{ row.madeBy }}</span></template
    >
    <template #cell-payments="{ row }">{{ row.payments }}</template>
    <template #cell-total="{ row }"
      ><Figure :amount="row.total" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-send="{ row }"
      ><button
        v-if="row.state === 'made' && may()"
        class="plain"
        tabindex="-1"
        data-test="send-file"
        @click.stop="send(row)"
      >
        Give to bank
      </button></template
    >
    <template #empty>No file was made yet.</template>
  </SheetTable>
  <BecauseForm
    v-if="taking && current"
    :what="`Take ${current.number} back`"
    label="Why"
    then="only a file that the bank never got, or has not executed"
    @because="takeBack"
    @cancel="taking = false"
  />
</template>
