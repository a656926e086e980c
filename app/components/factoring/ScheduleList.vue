<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { ScheduleItem, ScheduleRow } from '~~/contract/factoring'
import { ANSWER_KINDS, FACTOR_STATES } from '~~/core/factoring/answers'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Schedules, the newest first: what became of each, and what the money cost in a year. */
const desk = useDesk()
const session = useSession()
const may = computed(() => session.can('factoring.run'))
const rows = ref<ScheduleRow[]>([])
const loading = ref(false)
const trouble = ref('')
const current = ref<ScheduleRow | null>(null)
const opened = ref<number | null>(null)
type Detail = Awaited<ReturnType<typeof fetchDetail>>
const detail = ref<Detail | null>(null)
const fetchDetail = (id: number) => call(contract.factoring.schedule, { params: { id } })
const { trouble: refused, guard } = useGuard()

/** Files of factors that were not taken in. */
const waiting = ref<{ facility: string; file: string; fault: string }[]>([])
async function load(): Promise<void> {
  loading.value = true
  try {
    await fill(rows, async () => (await call(contract.factoring.schedules)).items)
    if (may.value) await fill(waiting, async () => (await call(contract.factoring.waiting)).items)
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
onMounted(load)

async function open(row: ScheduleRow): Promise<void> {
  opened.value = opened.value === row.id ? null : row.id
  detail.value = null
  if (opened.value === null) return
  try {
    await fill(detail, () => fetchDetail(row.id))
  } catch (error) {
    trouble.value = problemText(error)
  }
}
async function takeAnswers(): Promise<void> {
  await guard(async () => {
    const { taken } = await call(contract.factoring.inbox)
    await load()
    desk.say({ text: taken ? `${plural(taken, 'answer')} taken in.` : 'Nothing new from the factors.' })
  }, '')
}
const undoing = ref<ScheduleRow | null>(null)
async function takeBack(reason: string): Promise<void> {
  const { id, number } = undoing.value!
  await guard(async () => {
    await call(contract.factoring.takeBack, { params: { id }, body: { reason } })
    await load()
  }, `${number} is taken back: its invoices are free again.`)
  if (refused.value) return
  undoing.value = null
}
useKeys([
  { key: 'a', label: 'Take in answers of factors', when: () => may.value, run: () => void takeAnswers() },
])
const costText = (cost: number | null) => (cost === null ? '·' : `${cost.toFixed(2)} %`)
/** What its money cost in a year, three ways; each only where it can be told. */
function costWords({ cost, moneyWeighted }: Detail): string {
  if (cost.nominal === null) return 'What it costs a year is told once debtors have paid the factor.'
  const { rate, none } = moneyWeighted
  const why = none === 'several answers' ? 'no single answer, the reserve comes late' : none
  return (
    `Nominal ${costText(cost.nominal)}, compounded ${costText(cost.effective)}. ` +
    `Money-weighted: ${rate === null ? why : costText(rate)}.`
  )
}
const stateOf = (row: ScheduleRow): string => {
  if (row.state === 'taken-back') return 'taken back'
  if (row.state === 'made') return 'not given yet'
  return row.open ? `${row.open} of ${row.count} open` : 'closed'
}
const told = (item: ScheduleItem): string => {
  if (item.state === 'collected') return `paid ${dateText(item.collectedOn)}`
  return item.state === 'accepted' && item.backOn ? `may come back ${dateText(item.backOn)}` : ''
}
const total = (of: (r: ScheduleRow) => number, currency: string) =>
  rows.value
    .filter(r => r.currency === currency && r.state !== 'taken-back')
    .reduce((sum, r) => sum + of(r), 0)
const currencies = computed(() => [...new Set(rows.value.map(r => r.currency))].sort())
</script>

<template>
  <div class="filters">
    <button v-if="may" class="plain" @click="takeAnswers">Take in answers of factors <kbd>A</kbd></button>
    <span class="hint"><kbd>Enter</kbd> what became of each invoice</span>
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <p v-for="w in waiting" :key="`${w.facility} ${w.file}`" class="px-[18px] pb-1" data-test="waiting">
    <span class="text-soft">{{ w.facility }}, {{ w.file }}:</span>
    <span :class="w.fault ? 'wrong' : ''">{{ w.fault || 'waits to be taken in' }}</span>
  </p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Schedule', width: 96 },
      { key: 'facility', label: 'Factor', cut: true },
      { key: 'date', label: 'Offered', width: 98 },
      { key: 'state', label: 'State', width: 116 },
      { key: 'total', label: 'Invoices', num: true, width: 118 },
      { key: 'advance', label: 'Advanced', num: true, width: 112, gives: 2 },
      { key: 'collected', label: 'Paid to it', num: true, width: 112, gives: 1 },
      { key: 'kept', label: 'It kept', num: true, width: 96 },
      { key: 'cost', label: 'A year', num: true, width: 84, title: 'effective yearly cost, compounded' },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="false"
    :loading="loading"
    :opened="opened"
    label="Schedules"
    :row-class="r => (r.state === 'taken-back' ? 'text-faint' : '')"
    @cursor="r => (current = r)"
    @open="open"
  >
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-facility="{ row }">{{ row.facility.name }}</template>
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-state="{ row }">{{ stateOf(row) }}</template>
    <template #cell-total="{ row }"
      ><Figure :amount="row.total" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-advance="{ row }"><Figure :amount="row.advance" :currency="row.currency" /></template>
    <template #cell-collected="{ row }"><Figure :amount="row.collected" :currency="row.currency" /></template>
    <template #cell-kept="{ row }"><Figure :amount="row.kept" :currency="row.currency" /></template>
    <template #cell-cost="{ row }">{{ costText(row.cost.effective) }}</template>
    <template #under="{ row }">
      <template v-if="detail && detail.id === row.id">
        <p class="text-soft">
          {{ costWords(detail) }} The overdraft asks {{ detail.overdraft.toFixed(2) }} %.
          <a
            v-for="format in ['csv', 'xlsx'] as const"
            :key="format"
            class="plain ml-3"
            :href="urlOf(contract.factoring.scheduleFile, { id: row.id }, { format })"
            >{{ format.toUpperCase() }}</a
          >
          <a
            class="plain ml-3"
            title="its invoices as UBL 2.1, in a ZIP"
            :href="urlOf(contract.factoring.copies, { id: row.id })"
            >UBL</a
          >
          <button
            v-if="may && row.state !== 'taken-back' && detail.items.every(i => i.state === 'sent')"
            class="plain ml-3"
            @click="undoing = row"
          >
            Take it back
          </button>
        </p>
        <div class="max-h-[44vh] overflow-auto">
          <table class="w-full">
            <thead>
              <tr class="text-soft">
                <th class="pr-3 text-left font-normal">Invoice</th>
                <th class="pr-3 text-left font-normal">Debtor</th>
                <th class="num pr-3 font-normal">Amount</th>
                <th class="num pr-3 font-normal">Advance</th>
                <th class="num pr-3 font-normal">Commission</th>
                <th class="num pr-3 font-normal">Interest</th>
                <th class="num pr-3 font-normal">Days</th>
                <th class="num pr-3 font-normal">A year</th>
                <th class="num pr-3 font-normal">Overdraft</th>
                <th class="text-left font-normal">State</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="i in detail.items" :key="i.id">
                <td class="pr-3 whitespace-nowrap">
                  <NuxtLink class="makes" :to="`/accounts/${i.customer.number}?find=${i.number}&state=all`">{{
                    i.number
                  }}</NuxtLink>
                </td>
                <td class="max-w-[170px] truncate pr-3">{{ i.customer.name }}</td>
                <td class="num pr-3"><Figure :amount="i.amount" :currency="row.currency" /></td>
                <td class="num pr-3"><Figure :amount="i.advance" :currency="row.currency" /></td>
                <td class="num pr-3"><Figure :amount="i.commission" :currency="row.currency" /></td>
                <td class="num pr-3"><Figure :amount="i.interest" :currency="row.currency" /></td>
                <td class="num pr-3">{{ i.days || '·' }}</td>
                <td class="num pr-3">{{ costText(i.state === 'collected' ? i.cost.effective : null) }}</td>
                <td class="num pr-3"><Figure :amount="i.waiting.overdraft" :currency="row.currency" /></td>
                <td class="whitespace-nowrap">
                  {{ FACTOR_STATES[i.state] }}<span class="aside ml-2">{{ told(i) }}</span>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="detail.money.told || detail.money.lines.length" data-test="money">
          <span class="text-soft">The factor told of</span>
          {{ amountText(detail.money.told, row.currency) }},
          <span class="text-soft">the bank has shown</span>
          {{ amountText(detail.money.seen, row.currency, true) }}
          <NuxtLink v-for="l in detail.money.lines" :key="l.id" class="makes ml-3" :to="`/banking/${l.id}`"
            >{{ dateText(l.date) }} {{ amountText(l.amount, row.currency)
            }}{{ l.settled ? '' : ', not settled' }}</NuxtLink
          >
        </p>
        <p v-for="(e, n) in detail.events.slice(-4)" :key="n" class="text-soft">
          {{ dateText(e.date) }}: {{ ANSWER_KINDS[e.kind].toLowerCase() }} {{ e.invoice }}
          {{ e.amount ? amountText(e.amount, row.currency, true) : '' }} {{ e.settlement }} {{ e.text
          }}<NuxtLink v-if="e.entry" class="makes ml-2" :to="`/books/journal?number=${e.entry}`"
            >entry {{ e.entry }}</NuxtLink
          >
        </p>
      </template>
    </template>
    <template #foot="{ columns }"
      ><tr v-for="currency in currencies" :key="currency">
        <td v-for="c in columns" :key="c.key" :class="c.num ? 'num' : ''">
          <template v-if="c.key === 'number'">{{ currency }}</template><Figure
            v-else-if="['total', 'advance', 'collected', 'kept'].includes(c.key)"
            :amount="total(r => r[c.key as 'total'], currency)"
            :currency="currency"
          />
        </td></tr
    ></template>
    <template #empty>No invoice was offered to a factor yet: Offer proposes which.</template>
  </SheetTable>
  <BecauseForm
    v-if="undoing"
    :what="`Take ${undoing.number} back`"
    @because="takeBack"
    @cancel="undoing = null"
  />
</template>
