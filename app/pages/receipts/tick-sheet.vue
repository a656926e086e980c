<script setup lang="ts">
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { contract } from '~~/contract'
import type { BankLine } from '~~/contract/banking/lines'
import type { MEANS, OpenItem } from '~~/contract/receipts'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useRowWindow } from '~/composables/rowWindow'
import { sheetRows, type SheetView } from '~/composables/receipts/sheetRows'
import { useTicks } from '~/composables/receipts/ticks'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/**
 * All open items of all customers in one currency, to tick off against a remittance advice. Keyboard first.
 */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const currency = ref(String(route.query.currency ?? session.base))
const date = ref(session.today)
const find = ref('')
const group = ref(String(route.query.group ?? ''))
const only = ref<SheetView['only']>('all')
const order = ref<SheetView['order']>('customer')
const all = shallowRef<OpenItem[]>([])
const {
  ticks,
  ticked,
  byId,
  debits,
  running,
  customers,
  parts,
  creditsFit,
  late,
  toggle,
  flipDiscount,
  setAmount,
  writeOff,
  follow,
  keepOpen,
  clear,
} = useTicks(
  all,
  () => session.can('discount.authorise'),
  () => session.settings?.receiptPolicy.tolerance ?? 0,
)
const expected = ref<number | null>(null)
const reference = ref('')
const means = ref<(typeof MEANS)[number]>('transfer')
const mode = ref<'customer' | 'item'>('customer')
const lineId = ref(0)
const lines = shallowRef<BankLine[]>([])
const trouble = ref('')
const said = ref('')
const loading = ref(true)
const busy = ref(false)
const at = ref(0)
const scroller = ref<HTMLElement | null>(null)
const picker = ref<HTMLInputElement | null>(null)
const finder = ref<HTMLInputElement | null>(null)
let key = crypto.randomUUID()

let asked = 0
async function load(): Promise<void> {
  const mine = ++asked
  loading.value = true
  const items: OpenItem[] = []
  try {
    let cursor: string | undefined
    do {
      const page = await call(contract.receipts.openItems, {
        query: { currency: currency.value, date: date.value, limit: 5000, cursor },
      })
      if (mine !== asked) return
      items.push(...page.items)
      cursor = page.next ?? undefined
    } while (cursor)
    all.value = items
    keepOpen()
    await fill(lines, async () =>
      (await call(contract.banking.lines, { query: { state: 'open', limit: 200 } })).items.filter(
        l => l.currency === currency.value && l.amount > 0,
      ),
    )
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    if (mine === asked) loading.value = false
  }
}
watch(
  currency,
  () => {
    clear()
    lineId.value = 0
    void load()
  },
  { immediate: true },
)
watch(date, () => {
  void load()
})
const rows = computed(() =>
  sheetRows(all.value, {
    find: find.value,
    group: group.value,
    only: only.value,
    order: order.value,
    isTicked: id => ticks.value.has(id),
  }),
)
watch(rows, list => {
  at.value = Math.min(at.value, Math.max(0, list.length - 1))
})
const { shown, before, after, bringIntoSight, page } = useRowWindow(scroller, () => rows.value.length, {
  spare: 3,
})
const drawn = computed(() =>
  shown.value.flatMap(v => {
    const item = rows.value[v.index]
    return item ? [{ item, index: v.index, tick: ticks.value.get(item.id), on: v.index === at.value }] : []
  }),
)
// Rows that leave are used again for those that come; never fewer slots than rows, however tall the screen.
const slots = computed(() => 2 ** Math.ceil(Math.log2(drawn.value.length + 1)))
const current = computed(() => rows.value[at.value] ?? null)
watch(
  () => current.value?.customer,
  c => {
    if (c) void desk.choose(c)
  },
)

const names = computed(() => new Map(all.value.map(i => [i.customer, i.name])))
const openTotal = computed(() => rows.value.reduce((a, i) => a + i.open, 0))
const line = computed(() => lines.value.find(l => l.id === lineId.value) ?? null)
watch(line, l => {
  if (l) {
    expected.value = l.amount
    date.value = l.valueDate
    mode.value = 'customer'
    reference.value = l.text.slice(0, 80)
  }
})
const apart = computed(() => (expected.value === null ? null : expected.value - running.value))

const body = computed(() => ({
  date: line.value?.bookingDate ?? date.value,
  currency: currency.value,
  means: means.value,
  reference: reference.value,
  mode: mode.value,
  lateDiscount: late.value,
  total: expected.value ?? undefined,
  parts: parts.value,
  ...(line.value ? { bankLine: { id: line.value.id, version: line.value.version } } : {}),
}))
const reason = computed(() => {
  if (trouble.value) return trouble.value
  if (!debits.value.length) return 'tick what was paid'
  if (!creditsFit.value)
    return 'a ticked credit is more than the ticked items of its customer that take no discount and no write-off'
  if (apart.value)
    return apart.value > 0
      ? `${amountText(apart.value, currency.value)} to go`
      : `${amountText(-apart.value, currency.value)} more ticked than came in`
  return proofTrouble.value
})
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () =>
    debits.value.length && !apart.value ? call(contract.receipts.previewTicked, { body: body.value }) : null,
  [body],
)

function move(to: number): void {
  at.value = Math.max(0, Math.min(rows.value.length - 1, to))
  bringIntoSight(at.value)
}
/** The first item of the next customer, or of the one before. */
function nextCustomer(by: 1 | -1): void {
  const here = current.value?.customer
  let n = at.value
  while (n >= 0 && n < rows.value.length && rows.value[n]!.customer === here) n += by
  if (n < 0 || n >= rows.value.length) return
  if (by < 0) while (n > 0 && rows.value[n - 1]!.customer === rows.value[n]!.customer) n--
  move(n)
}
function edit(): void {
  void nextTick(() =>
    scroller.value?.querySelector<HTMLInputElement>(`[data-at="${at.value}"] input[data-money]`)?.focus(),
  )
}
const done = (event: KeyboardEvent) => {
  ;(event.target as HTMLElement).blur()
  move(at.value + 1)
}
async function advice(file: File): Promise<void> {
  try {
    const a = await call(contract.receipts.advice, { query: { currency: currency.value }, body: file })
    const count = follow(a.lines)
    expected.value = a.total
    if (a.reference) reference.value = a.reference.slice(0, 80)
    const wrong = a.lines.filter(l => l.problem)
    said.value = `${plural(a.lines.length, 'line')} read${a.payer ? ` from ${a.payer}` : ''}, ${count} ticked.${
      wrong.length
        ? ` Not as it says: ${wrong
            .slice(0, 6)
            .map(l => `${l.number}, ${l.problem}`)
            .join('; ')}${wrong.length > 6 ? ` and ${wrong.length - 6} more` : ''}.`
        : ''
    }`
    only.value = 'ticked'
    trouble.value = ''
  } catch (error) {
    said.value = problemText(error)
  }
}
async function post(): Promise<void> {
  if (reason.value || busy.value || !ready.value) return
  busy.value = true
  try {
    const result = await call(contract.receipts.postTicked, { body: body.value, key })
    key = crypto.randomUUID()
    const sum = amountText(running.value, currency.value, true)
    const { receipts } = result
    const as =
      receipts.length > 2 ? plural(receipts.length, 'receipt') : receipts.map(r => r.number).join(' and ')
    clear()
    expected.value = null
    reference.value = ''
    lineId.value = 0
    only.value = 'all'
    said.value = ''
    await load()
    await desk.refresh()
    desk.say({
      text: `${sum} posted as ${as}.`,
      to:
        result.receipts.length === 1
          ? `/receipts/${result.receipts[0]!.id}?do=reverse`
          : `/books/journal?number=${result.entry}`,
      action: result.receipts.length === 1 ? 'Reverse' : 'See the entry',
    })
  } catch (error) {
    said.value = problemText(error)
    await load()
  } finally {
    busy.value = false
  }
}
const currencies = computed(() => [...new Set([session.base, ...(session.settings?.currencies ?? [])])])
useKeys([
  { key: 'ArrowDown', label: 'Next item', run: () => move(at.value + 1) },
  { key: 'ArrowUp', label: 'Item before', run: () => move(at.value - 1) },
  { key: 'PageDown', label: '', run: () => move(at.value + page()) },
  { key: 'PageUp', label: '', run: () => move(at.value - page()) },
  { key: 'Home', label: '', run: () => move(0) },
  { key: 'End', label: '', run: () => move(rows.value.length - 1) },
  {
    key: ' ',
    label: 'Tick the item',
    run: () => {
      if (current.value) {
        toggle(current.value)
        move(at.value + 1)
      }
    },
  },
  { key: 'Enter', label: 'Type a part amount', run: edit },
  {
    key: 'd',
    label: 'Take the discount, or not',
    when: () => Boolean(current.value?.discount || current.value?.offered),
    run: () => flipDiscount(current.value!),
  },
  {
    key: 's',
    label: 'Write off the small difference',
    when: () => Boolean(current.value && ticks.value.has(current.value.id)),
    run: () => writeOff(current.value!),
  },
  { key: 'j', label: 'Next customer', run: () => nextCustomer(1) },
  { key: 'k', label: 'Customer before', run: () => nextCustomer(-1) },
  {
    key: 'g',
    label: 'Only this customer and its group, or all',
    run: () => {
      group.value = group.value ? '' : (current.value?.group ?? '')
    },
  },
  { key: 'f', label: 'Find items', run: () => finder.value?.focus() },
  { key: 'e', label: 'To the expected total', run: () => document.getElementById('expected')?.focus() },
  {
    key: 'y',
    label: 'Only what is ticked, or all',
    run: () => {
      only.value = only.value === 'ticked' ? 'all' : 'ticked'
    },
  },
  {
    key: 'm',
    label: 'One receipt per item, or one per customer',
    when: () => !line.value,
    run: () => {
      mode.value = mode.value === 'item' ? 'customer' : 'item'
    },
  },
  { key: 'o', label: 'Read a remittance advice', run: () => picker.value?.click() },
  { key: 'x', label: 'Take all ticks off', run: clear },
  {
    key: 'Ctrl+Enter',
    label: 'Post what is ticked',
    inFields: true,
    run: () => {
      void post()
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Tick sheet</h1>
    <TickTotals
      v-model:expected="expected"
      :running="running"
      :items="ticked.length"
      :customers="customers.length"
      :currency="currency"
    />
    <button class="plain ml-auto" @click="picker?.click()">Read an advice <kbd>O</kbd></button
    ><input
      ref="picker"
      type="file"
      accept=".xml,.csv,.txt"
      class="sr-only"
      tabindex="-1"
      aria-label="Remittance advice file"
      @change="
        $event => {
          ;($event.target as HTMLInputElement).files?.[0] &&
            advice(($event.target as HTMLInputElement).files![0]!)
          ;($event.target as HTMLInputElement).value = ''
        }
      "
    />
  </div>
  <div class="filters">
    <select v-model="currency" class="field" aria-label="Currency">
      <option v-for="c in currencies" :key="c" :value="c">{{ c }}</option>
    </select>
    <input
      ref="finder"
      v-model="find"
      class="field w-[150px]"
      placeholder="Number, name, amount"
      aria-label="Find items"
      @keydown.escape="
        () => {
          find = ''
          finder?.blur()
        }
      "
      @keydown.enter="finder?.blur()"
    />
    <select v-model="only" class="field" aria-label="Show">
      <option value="all">all items</option>
      <option value="due">due</option>
      <option value="discount">with discount</option>
      <option value="ticked">ticked</option>
    </select>
    <select v-model="order" class="field" aria-label="Order">
      <option value="customer">by customer</option>
      <option value="due">by due date</option>
      <option value="amount">largest first</option>
    </select>
    <button v-if="group" class="plain !py-0" @click="group = ''">
      only {{ names.get(group) ?? group }} ✕
    </button>
    <TickPayment
      v-model:date="date"
      v-model:means="means"
      v-model:reference="reference"
      v-model:line-id="lineId"
      v-model:mode="mode"
      :lines="lines"
    />
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
  <p v-if="said" class="px-[18px] pb-1" role="status">{{ said }}</p>
  <div
    ref="scroller"
    class="relative min-h-0 flex-1 overflow-auto"
    tabindex="-1"
    role="region"
    aria-label="Open items"
  >
    <table class="grid-table min-w-[780px] table-fixed" :aria-rowcount="rows.length">
      <thead>
        <tr>
          <th style="width: 122px">Item</th>
          <th>Customer</th>
          <th style="width: 98px">Due</th>
          <th class="num" style="width: 112px">Open</th>
          <th class="num" style="width: 96px">Discount</th>
          <th class="num" style="width: 124px">Pays now</th>
          <th class="num" style="width: 84px">Left</th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="before > 0" aria-hidden="true">
          <td colspan="7" class="!border-0 !p-0" :style="{ height: `${before}px` }" />
        </tr>
        <!-- A row is drawn again only when something of it changed, and only the row of the cursor has a
             field: a key press costs one or two rows, however long the sheet. -->
        <tr
          v-for="{ item, tick, index, on } in drawn"
          :key="index % slots"
          v-memo="[item, index, tick, on, currency]"
          :data-at="index"
          :aria-rowindex="index + 1"
          :data-item="item.number"
          :class="on ? 'on' : ''"
          @click="move(index)"
        >
          <td>
            <label class="flex items-center gap-2.5"
              ><input
                type="checkbox"
                class="tick"
                tabindex="-1"
                :checked="tick !== undefined"
                :aria-label="`Paid: ${item.number}`"
                @click.stop
                @change="
                  () => {
                    move(index)
                    toggle(item)
                  }
                "
              /><span class="font-semibold">{{ item.number }}</span></label
            >
          </td>
          <td class="cut">
            <span class="name">{{ item.name }}</span>
            {{ ' ' }}
            <span class="aside">{{ item.disputed ? 'disputed ' : '' }}{{ item.text }}</span>
          </td>
          <td>
            {{ dateText(item.dueDate).replace(/ \d{4}$/, '') }}
            <span v-if="item.daysLate > 0" class="aside">{{ item.daysLate }} late</span>
          </td>
          <td class="num"><Figure :amount="item.open" :currency="currency" cr /></td>
          <td class="num">
            <button
              v-if="item.discount || tick?.discount"
              tabindex="-1"
              class="makes"
              :class="tick?.discount ? 'font-semibold' : 'text-soft'"
              @click.stop="
                () => {
                  move(index)
                  flipDiscount(item)
                }
              "
            >
              <Figure :amount="tick?.discount || item.discount!.amount" :currency="currency" /></button
            ><span v-else-if="item.offered" class="cents" title="the discount date is past"
              ><Figure :amount="item.offered" :currency="currency" /> lost</span
            ><span v-else class="none">·</span>
          </td>
          <td
            class="num"
            @click.stop="
              () => {
                move(index)
                edit()
              }
            "
          >
            <MoneyField
              v-if="on && item.open > 0"
              :key="item.id"
              :model-value="tick?.amount ?? null"
              :currency="currency"
              :label="`Amount for ${item.number}`"
              :max="item.open"
              placeholder="·"
              @update:model-value="a => setAmount(item, a)"
              @keydown.enter.prevent="done"
              @keydown.escape="($event.target as HTMLInputElement).blur()"
            /><b v-else-if="tick" class="font-semibold"
              ><Figure :amount="item.open > 0 ? tick.amount : item.open" :currency="currency" cr /></b
            ><span v-else class="none">·</span>
          </td>
          <td class="num">
            <template v-if="tick"
              ><span v-if="tick.difference" class="text-soft"
                ><Figure :amount="tick.difference" :currency="currency" /> off</span
              ><Figure
                v-else
                :amount="item.open < 0 ? 0 : item.open - tick.amount - tick.discount"
                :currency="currency"
                zero
            /></template>
          </td>
        </tr>
        <tr v-if="after > 0" aria-hidden="true">
          <td colspan="7" class="!border-0 !p-0" :style="{ height: `${after}px` }" />
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">{{ plural(rows.length, 'item') }}</td>
          <td class="num"><Figure :amount="openTotal" :currency="currency" zero /></td>
          <td class="num">
            <Figure :amount="debits.reduce((a, t) => a + t.discount, 0)" :currency="currency" />
          </td>
          <td class="num"><Figure :amount="running" :currency="currency" zero /></td>
          <td />
        </tr>
      </tfoot>
    </table>
    <p v-if="!rows.length" class="p-[18px] text-soft">
      {{
        loading
          ? 'Reading the ledger …'
          : find || group || only !== 'all'
            ? 'No open item matches.'
            : `Nothing is open in ${currency}.`
      }}
    </p>
  </div>
  <ProofStrip
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Post"
    :after="mode === 'item' ? 'one receipt per item' : 'one lump per customer'"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  >
    <template #changes>
      <TickParts
        v-if="debits.length"
        :parts="parts"
        :mode="mode"
        :currency="currency"
        :names="names"
        :number-of="id => byId.get(id)?.number ?? ''"
      />
      <p v-else class="hint">Tick what the advice names; the total follows.</p>
    </template>
  </ProofStrip>
</template>
