<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { contract } from '~~/contract'
import type { SlipDetail, SlipRow, TrayItem } from '~~/contract/banking/slips'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** The Tray: cheques and cash not yet at the bank, and the slips that took them there. */
const desk = useDesk()
const session = useSession()
const view = ref<'tray' | 'slips'>('tray')
type Tray = Awaited<ReturnType<typeof readTray>>
const readTray = () => call(contract.banking.tray)
const tray = shallowRef<Tray | null>(null)
const slips = shallowRef<SlipRow[]>([])
const detail = shallowRef<SlipDetail | null>(null)
const currency = ref('')
const chosen = ref<Set<number>>(new Set())
const cashKept = ref<number | null>(null)
const date = ref(session.today)
const trouble = ref('')
const busy = ref(false)
const loading = ref(true)
const voiding = ref(false)
const reason = ref('')
const current = ref<TrayItem | null>(null)
const currentSlip = ref<SlipRow | null>(null)
let key = crypto.randomUUID()

async function load(): Promise<void> {
  try {
    await fill(tray, () => readTray())
    await fill(slips, async () => (await call(contract.banking.slips, { query: { limit: 200 } })).items)
    const totals = tray.value?.totals ?? []
    if (!totals.some(t => t.currency === currency.value))
      currency.value =
        totals.find(t => t.currency === session.base)?.currency ?? totals[0]?.currency ?? session.base
    chosen.value = new Set()
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
void load()
const rows = computed(() => tray.value?.items.filter(i => i.currency === currency.value) ?? [])
const picked = computed(() => rows.value.filter(i => chosen.value.has(i.id)))
const total = computed(() => picked.value.reduce((a, i) => a + i.amount, 0))
const cash = computed(() => picked.value.filter(i => i.means === 'cash').reduce((a, i) => a + i.amount, 0))
const body = computed(() => ({
  date: date.value,
  means: picked.value.map(i => i.id),
  cashKept: cashKept.value ?? 0,
}))
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () => (body.value.means.length ? call(contract.banking.previewSlip, { body: body.value }) : null),
  [body],
)
const {
  proof: voidProof,
  trouble: voidTrouble,
  pending: voidPending,
} = useProof(
  () =>
    voiding.value && detail.value
      ? call(contract.banking.previewVoid, { params: { id: detail.value.id }, body: { date: session.today } })
      : null,
  [voiding, detail],
)
const off = computed(() => (picked.value.length ? proofTrouble.value : 'tick what goes to the bank'))
const canPost = computed(() => session.can('receipts.post'))
function toggle(i: TrayItem): void {
  const next = new Set(chosen.value)
  if (!next.delete(i.id)) next.add(i.id)
  chosen.value = next
}
const all = () => {
  chosen.value = new Set(picked.value.length === rows.value.length ? [] : rows.value.map(i => i.id))
}
async function post(): Promise<void> {
  if (off.value || busy.value || !ready.value || view.value !== 'tray') return
  busy.value = true
  try {
    const slip = await call(contract.banking.postSlip, { body: body.value, key })
    key = crypto.randomUUID()
    cashKept.value = null
    await load()
    view.value = 'slips'
    await open(slip)
    desk.say({
      text: `Slip ${slip.number}, ${amountText(slip.banked, slip.currency, true)} to the bank.`,
      to: urlOf(contract.banking.pdf, { id: slip.id }),
      action: 'Print it',
    })
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
async function open(slip: { id: number }): Promise<void> {
  if (detail.value?.id === slip.id) {
    detail.value = null
    return
  }
  try {
    await fill(detail, () => call(contract.banking.slip, { params: { id: slip.id } }))
    voiding.value = false
  } catch (error) {
    trouble.value = problemText(error)
  }
}
async function voidIt(): Promise<void> {
  try {
    await call(contract.banking.voidSlip, {
      params: { id: detail.value!.id },
      body: { date: session.today, reason: reason.value },
    })
    desk.say({ text: `Slip ${detail.value!.number} voided; everything on it lies in the tray again.` })
    detail.value = null
    voiding.value = false
    reason.value = ''
    await load()
  } catch (error) {
    trouble.value = problemText(error)
  }
}
useKeys([
  {
    key: ' ',
    label: 'Onto the slip, or not',
    when: () => view.value === 'tray' && canPost.value,
    run: () => {
      if (current.value) toggle(current.value)
    },
  },
  { key: 'a', label: 'All onto the slip', when: () => view.value === 'tray' && canPost.value, run: all },
  {
    key: 'o',
    label: 'Tray or slips',
    run: () => {
      view.value = view.value === 'tray' ? 'slips' : 'tray'
    },
  },
  {
    key: 'p',
    label: 'Print the slip',
    when: () => view.value === 'slips' && currentSlip.value !== null,
    run: () => {
      window.open(urlOf(contract.banking.pdf, { id: currentSlip.value!.id }), '_blank')
    },
  },
  {
    key: 'Ctrl+Enter',
    label: 'Take to the bank',
    inFields: true,
    when: () => view.value === 'tray',
    run: () => {
      void post()
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Tray</h1>
    <span class="text-soft"
      ><template v-if="tray?.items.length"
        >{{ plural(tray.items.length, 'item') }} not yet at the bank:
        {{ tray.totals.map(t => amountText(t.cash + t.cheques, t.currency, true)).join(', ') }}</template
      ><template v-else-if="!loading">nothing waits for the bank</template></span
    >
    <span class="ml-auto flex gap-4"
      ><button
        class="border-b-2 pb-0.5"
        :class="view === 'tray' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
        @click="view = 'tray'"
      >
        In the tray</button
      ><button
        class="border-b-2 pb-0.5"
        :class="view === 'slips' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
        @click="view = 'slips'"
      >
        Slips <kbd>O</kbd>
      </button></span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
  <template v-if="view === 'tray'">
    <div class="filters">
      <span v-if="(tray?.totals.length ?? 0) > 1"
        ><label class="label" for="currency">Currency </label
        ><select id="currency" v-model="currency" class="field" @change="chosen = new Set()">
          <option v-for="t in tray!.totals" :key="t.currency" :value="t.currency">
            {{ t.currency }}, {{ t.count }}
          </option>
        </select></span
      >
      <template v-if="canPost">
        <span class="flex items-baseline gap-1.5"
          ><label class="label" for="on">to the bank on</label
          ><DateField
            id="on"
            v-model="date"
            label="To the bank on"
            :today="session.today"
            :max="session.today"
        /></span>
        <span class="flex items-baseline gap-1.5"
          ><label class="label" for="kept">cash kept back</label
          ><MoneyField
            id="kept"
            v-model="cashKept"
            :currency="currency || session.base"
            label="Cash kept back"
            :max="cash"
            placeholder="none"
        /></span>
        <button class="plain" @click="all">
          {{ picked.length === rows.length && rows.length ? 'None' : 'All' }} <kbd>A</kbd>
        </button>
      </template>
    </div>
    <SheetTable
      key="t"
      :columns="[
        { key: 'tick', label: 'Slip', width: 40 },
        { key: 'date', label: 'Paid on', width: 92 },
        { key: 'means', label: 'By', width: 66 },
        { key: 'reference', label: 'Number', width: 100 },
        { key: 'customer', label: 'Customer', cut: true },
        { key: 'receipt', label: 'Receipt', width: 84 },
        { key: 'amount', label: 'Amount', num: true, width: 120 },
      ]"
      :rows="rows"
      :row-key="i => i.id"
      :loading="loading"
      label="In the tray"
      @cursor="
        i => {
          current = i
          if (i.customer.number) desk.choose(i.customer.number)
        }
      "
      @open="i => navigateTo(i.receiptId ? `/receipts/${i.receiptId}` : '/receipts/sundry')"
    >
      <template #cell-tick="{ row }"
        ><input
          type="checkbox"
          class="tick"
          tabindex="-1"
          :disabled="!canPost"
          :checked="chosen.has(row.id)"
          :aria-label="`${row.receipt} onto the slip`"
          @click.stop
          @change="toggle(row)"
      /></template>
      <template #cell-date="{ row }">{{ dateText(row.date) }}</template><template #cell-means="{ row }">{{
        row.means
      }}</template
      ><template #cell-reference="{ row }">{{ row.reference }}</template>
      <template #cell-customer="{ row }"
        ><span class="name">{{ row.customer.name }}</span></template
      >
      <template #cell-receipt="{ row }"
        ><NuxtLink
          class="makes"
          tabindex="-1"
          :to="row.receiptId ? `/receipts/${row.receiptId}` : '/receipts/sundry'"
          >{{ row.receipt }}</NuxtLink
        ></template
      >
      <template #cell-amount="{ row }"><Figure :amount="row.amount" :currency="row.currency" /></template>
      <template #foot
        ><tr>
          <td colspan="6">
            {{ picked.length }} of {{ rows.length }} on the slip<span class="ml-4 font-normal text-soft"
              >cheques {{ amountText(total - cash, currency) }}, cash {{ amountText(cash, currency)
              }}<template v-if="cashKept">, kept back {{ amountText(cashKept, currency) }}</template></span
            >
          </td>
          <td class="num" data-test="slip-total">
            <Figure :amount="total - (cashKept ?? 0)" :currency="currency" zero />
          </td></tr
      ></template>
      <template #empty
        >Nothing in the tray. Cheques and cash land here when their receipts are posted.</template
      >
    </SheetTable>
    <ProofStrip
      v-if="canPost && rows.length"
      :proof="proof"
      :reason="off"
      :busy="busy || pending"
      verb="To the bank"
      :labels="[]"
      @post="post"
    />
  </template>
  <SheetTable
    v-else
    key="s"
    :columns="[
      { key: 'number', label: 'Slip', width: 90 },
      { key: 'date', label: 'Date', width: 100 },
      { key: 'count', label: 'Items', num: true, width: 60 },
      { key: 'kept', label: 'Kept back', num: true, width: 110 },
      { key: 'banked', label: 'To the bank', num: true, width: 140 },
      { key: 'by', label: 'By', cut: true },
      { key: 'print', label: '', width: 60 },
    ]"
    :rows="slips"
    :row-key="s => s.id"
    :loading="loading"
    label="Slips"
    :opened="detail?.id ?? null"
    @cursor="
      s => {
        currentSlip = s
      }
    "
    @open="open"
  >
    <template #cell-number="{ row }"
      ><button class="makes font-semibold" tabindex="-1" @click.stop="open(row)">
        {{ row.number }}
      </button></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template><template #cell-count="{ row }">{{
      row.count
    }}</template>
    <template #cell-kept="{ row }"><Figure :amount="row.cashKept" :currency="row.currency" /></template>
    <template #cell-banked="{ row }"
      ><Figure :amount="row.banked" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-by="{ row }"><span v-if="row.voided" class="wrong">void </span>{{ row.by }}</template>
    <template #cell-print="{ row }"
      ><a
        class="makes text-accent"
        tabindex="-1"
        :href="urlOf(contract.banking.pdf, { id: row.id })"
        target="_blank"
        @click.stop
        >print</a
      ></template
    >
    <template #under="{ row }">
      <table class="ml-2">
        <tbody>
          <tr v-for="m in detail?.means ?? []" :key="m.id">
            <td class="!h-6 !border-0">{{ m.means }} {{ m.reference }}</td>
            <td class="!h-6 !border-0">
              <NuxtLink class="makes" :to="m.receiptId ? `/receipts/${m.receiptId}` : '/receipts/sundry'">{{
                m.receipt
              }}</NuxtLink>
            </td>
            <td class="!h-6 !border-0">{{ m.customer.name }}</td>
            <td class="num !h-6 !border-0"><Figure :amount="m.amount" :currency="m.currency" /></td>
          </tr>
        </tbody>
      </table>
      <p class="mt-1 text-soft">
        Journal
        <NuxtLink
          v-for="e in detail?.entries ?? []"
          :key="e"
          class="makes mr-2"
          :to="`/books/journal?number=${e}`"
          >{{ e }}</NuxtLink><template v-if="row.voided">void: {{ detail?.voidReason }}</template>
      </p>
      <form v-if="voiding" class="flex items-baseline gap-3" @submit.prevent="voidIt">
        <input
          v-model="reason"
          v-focus
          class="field w-[260px]"
          placeholder="Why is it void"
          aria-label="Reason"
          required
          maxlength="200"
        /><button class="plain">Void the slip</button
        ><button type="button" class="hint" @click="voiding = false">Leave</button>
      </form>
      <button
        v-else-if="!row.voided && session.can('receipts.correct')"
        class="plain"
        @click="voiding = true"
      >
        Void
      </button>
    </template>
    <template #empty>No slip yet. Tick what goes to the bank in the tray.</template>
  </SheetTable>
  <ProofStrip
    v-if="view === 'slips' && voiding"
    :proof="voidProof"
    :reason="reason.trim() ? voidTrouble : 'say why it is void'"
    :busy="voidPending"
    verb="Void"
    after="everything on it lies in the tray again"
    :labels="[]"
    @post="voidIt"
  />
</template>
