<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { REFUND_METHODS } from '~~/core/refunds'
import { contract } from '~~/contract'
import type { RefundRow } from '~~/contract/refunds'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { amountText, dateText, plural, proseText } from '~/utils/format'

/** Refunds that were made, where each stands, and the file of those that wait. */
const props = defineProps<{ customer: string }>()
const desk = useDesk()
const session = useSession()
const query = reactive({ state: 'open' as 'open' | 'waits' | 'all', search: '' })
const { rows, answer, loading, trouble, more, reload } = usePages<
  RefundRow,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query }), () => props.customer], 120)
function read(cursor: string | undefined) {
  return call(contract.refunds.list, {
    query: {
      state: query.state,
      search: query.search || undefined,
      customer: props.customer || undefined,
      limit: 60,
      cursor,
    },
  })
}
const { trouble: refused, guard } = useGuard()
const current = ref<RefundRow | null>(null)
const opened = ref<number | null>(null)
const undoing = ref(false)
const told = ref<string[]>([])
/** Currencies in which transfers wait for a file. */
const waiting = computed(() => {
  const sums = new Map<string, { count: number; amount: number }>()
  for (const r of rows.value)
    if (r.state === 'waits' && r.method === 'transfer') {
      const sum = sums.get(r.currency) ?? { count: 0, amount: 0 }
      sums.set(r.currency, { count: sum.count + 1, amount: sum.amount + r.amount })
    }
  return [...sums]
})
async function makeFile(currency: string): Promise<void> {
  await guard(async () => {
    const file = await call(contract.refunds.file, { body: { currency }, key: crypto.randomUUID() })
    told.value = file.told
    await reload()
  }, 'The file is made and checked. Give it to the bank under Files.')
}
const cards = computed(() => rows.value.filter(r => r.state === 'waits' && r.method === 'card').length)
async function payByCard(): Promise<void> {
  await guard(async () => {
    const { paid, refused: not } = await call(contract.refunds.cards, { key: crypto.randomUUID() })
    await Promise.all([reload(), desk.refresh()])
    const refusals = not.map(r => `${r.number} was not paid: ${r.why}`)
    desk.say({ text: [`${plural(paid, 'refund')} paid by the card terminal.`, ...refusals].join(' ') })
  }, '')
}
async function writeCheque(row: RefundRow | null): Promise<void> {
  if (row?.state !== 'cheque') return
  await guard(async () => {
    const cheque = await call(contract.refunds.writeCheque, {
      params: { id: row.id },
      body: {},
      key: crypto.randomUUID(),
    })
    window.open(urlOf(contract.refunds.chequePdf, { id: cheque.id }), '_blank')
    await reload()
  }, 'The cheque is written; its advice lies with the letters to print.')
}
async function undo(reason: string): Promise<void> {
  const row = current.value!
  await guard(async () => {
    await call(contract.refunds.undo, {
      params: { id: row.id },
      body: { reason },
      key: crypto.randomUUID(),
    })
    await Promise.all([reload(), desk.refresh()])
  }, `${row.number} is taken back: its credit is open again.`)
  if (refused.value) return
  undoing.value = false
}
const may = computed(() => session.can('refunds.post'))
const maySend = computed(() => session.can('payments.send'))
const canUndo = computed(
  () => may.value && current.value !== null && ['waits', 'cheque'].includes(current.value.state),
)
const OF = { open: 'not paid yet', waits: 'waiting for a file, cheque or card', all: 'all' } as const
useKeys([
  {
    key: 'p',
    label: 'Make the file of those that wait',
    when: () => maySend.value && waiting.value.length > 0,
    run: () => {
      void makeFile(waiting.value[0]![0])
    },
  },
  {
    key: 'k',
    label: 'Give those by card to the terminal',
    when: () => maySend.value && cards.value > 0,
    run: () => {
      void payByCard()
    },
  },
  {
    key: 'q',
    label: 'Write the cheque',
    when: () => may.value && current.value?.state === 'cheque',
    run: () => {
      void writeCheque(current.value)
    },
  },
  {
    key: 'u',
    label: 'Take the refund back',
    when: () => canUndo.value,
    run: () => {
      undoing.value = true
    },
  },
])
</script>

<template>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[170px]"
      placeholder="Customer, refund or cheque"
      label="Find a refund"
    />
    <span
      ><label class="label" for="refund-state">Show </label
      ><select id="refund-state" v-model="query.state" class="field">
        <option v-for="(label, value) in OF" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span class="ml-auto flex gap-3"
      ><button
        v-for="([currency, sum], n) in waiting"
        :key="currency"
        class="plain"
        :disabled="!maySend"
        :title="maySend ? '' : 'a treasurer or supervisor makes files'"
        @click="makeFile(currency)"
      >
        File of {{ plural(sum.count, 'refund') }}, {{ amountText(sum.amount, currency, true) }}
        <kbd v-if="n === 0">P</kbd></button
      ><button v-if="cards && maySend" class="plain" @click="payByCard">
        {{ plural(cards, 'refund') }} to the card terminal <kbd>K</kbd>
      </button></span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <p v-if="told.length" class="px-[18px] pb-1 text-soft">
    Names in the signs every bank takes: {{ told.slice(0, 4).join('; ') }}.
  </p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Refund', width: 92 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'date', label: 'Made', width: 98 },
      { key: 'method', label: 'By', width: 76 },
      { key: 'told', label: 'Where it stands', cut: true },
      { key: 'amount', label: 'Amount', num: true, width: 128 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    :opened="opened"
    label="Refunds"
    :row-class="r => (r.state === 'refused' || r.state === 'taken-back' ? 'text-faint' : '')"
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
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-method="{ row }">{{ REFUND_METHODS[row.method].toLowerCase() }}</template>
    <template #cell-told="{ row }"
      ><span :class="row.state === 'refused' || row.cheque?.late ? 'wrong' : ''"
        >{{ proseText(row.told) }}<template v-if="row.cheque?.late">, long ago</template></span
      ></template
    >
    <template #cell-amount="{ row }"
      ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #under="{ row }"
      ><p class="text-soft">
        For
        <template v-for="(c, n) in row.credits" :key="c.id"
          >{{ n ? ', ' : '' }}{{ c.number }} <Figure :amount="c.amount" :currency="row.currency" /></template
        ><template v-if="row.iban">; to {{ row.iban }} of {{ row.holder }}</template
        >. {{ row.text }}. By {{ row.by }}.
        <button v-if="row.state === 'cheque' && may" class="plain ml-3" @click="writeCheque(row)">
          Write the cheque <kbd>Q</kbd>
        </button>
        <a
          v-if="row.cheque"
          class="plain ml-3"
          :href="urlOf(contract.refunds.chequePdf, { id: row.cheque.id })"
          target="_blank"
          >Cheque {{ row.cheque.number }}</a
        >
        <button v-if="canUndo && row.id === current?.id" class="plain ml-3" @click="undoing = true">
          Take it back <kbd>U</kbd>
        </button>
      </p></template
    >
    <template #foot
      ><tr v-if="answer">
        <td colspan="5">
          {{
            plural(
              answer.totals.reduce((a, t) => a + t.count, 0),
              'refund',
            )
          }}
        </td>
        <td class="num">
          <template v-for="t in answer.totals" :key="t.currency"
            ><Figure :amount="t.amount" :currency="t.currency" /><span class="aside ml-1">{{
              t.currency
            }}</span>
          </template>
        </td>
      </tr></template
    >
    <template #empty>{{
      query.state === 'all' ? 'Nothing was refunded yet.' : 'Nothing waits: all refunds are paid.'
    }}</template>
  </SheetTable>
  <BecauseForm
    v-if="undoing && current"
    :what="`Take ${current.number} back`"
    then="its credits are open again"
    @because="undo"
    @cancel="undoing = false"
  />
</template>
