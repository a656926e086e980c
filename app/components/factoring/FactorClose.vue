<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'
import { newest } from '~/utils/fill'

/** Money on accounts whose invoices lie with a factor: its own less commission, or paid to us by mistake. */
type Row = Awaited<ReturnType<typeof read>>['items'][number]
const read = () => call(contract.factoring.toClose)
const desk = useDesk()
const session = useSession()
const may = computed(() => session.can('factoring.run'))
const rows = ref<Row[]>([])
const passed = ref<Awaited<ReturnType<typeof read>>['passed']>([])
const loading = ref(false)
const trouble = ref('')
const current = ref<Row | null>(null)
const busy = ref(false)
let key = crypto.randomUUID()

const asking = newest()
async function load(): Promise<void> {
  const isNewest = asking()
  loading.value = true
  try {
    const found = await read()
    if (!isNewest()) return
    rows.value = found.items
    passed.value = found.passed
    if (!rows.value.length) current.value = null
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
onMounted(load)

const short = computed(() =>
  current.value?.short
    ? {
        facility: current.value.facility.code,
        creditItemId: current.value.credit.id,
        itemId: current.value.short.itemId,
      }
    : null,
)
const onward = computed(() =>
  current.value && !current.value.short && current.value.passOn > 0
    ? {
        facility: current.value.facility.code,
        creditItemId: current.value.credit.id,
        amount: current.value.passOn,
      }
    : null,
)
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(() => {
  if (!may.value) return null
  if (short.value) return call(contract.factoring.shortProof, { body: short.value })
  return onward.value ? call(contract.factoring.passOnProof, { body: onward.value }) : null
}, [short, onward])
const reason = computed(() =>
  short.value || onward.value ? proofTrouble.value : 'nothing of this money is for a factor',
)
async function post(): Promise<void> {
  if (busy.value || reason.value || !ready.value) return
  busy.value = true
  try {
    const { numbers } = short.value
      ? await call(contract.factoring.short, { body: short.value, key })
      : await call(contract.factoring.passOn, { body: onward.value!, key })
    key = crypto.randomUUID()
    desk.say({ text: `Posted as ${numbers.join(', ')}.` })
    await Promise.all([load(), desk.refresh()])
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
const { trouble: refused, guard } = useGuard()
const undoing = ref<(typeof passed.value)[number] | null>(null)
async function undo(because: string): Promise<void> {
  const { id, number, customer } = undoing.value!
  await guard(async () => {
    await call(contract.factoring.undoPassOn, {
      params: { id },
      body: { reason: because },
      key: crypto.randomUUID(),
    })
    await load()
  }, `${number} is taken back: the money is on the account of ${customer.name} again.`)
  if (refused.value) return
  undoing.value = null
}
useKeys([{ key: 'Ctrl+Enter', label: 'Post it', inFields: true, run: () => void post() }])
</script>

<template>
  <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'customer', label: 'Debtor', cut: true },
      { key: 'credit', label: 'Money', width: 108 },
      { key: 'date', label: 'Of', width: 98 },
      { key: 'factor', label: 'Factor', width: 150, gives: 1 },
      { key: 'what', label: 'What it is', cut: true },
      { key: 'open', label: 'Not assigned', num: true, width: 128 },
    ]"
    :rows="rows"
    :row-key="r => r.credit.id"
    :more="false"
    :loading="loading"
    label="Money for factors"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
  >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-credit="{ row }">{{ row.credit.number }}</template>
    <template #cell-date="{ row }">{{ dateText(row.credit.date) }}</template>
    <template #cell-factor="{ row }">{{ row.facility.name }}</template>
    <template #cell-what="{ row }">{{
      row.short
        ? `${row.short.number} less ${amountText(row.short.net + row.short.tax, row.currency)} of commission`
        : row.passOn
          ? `${amountText(row.passOn, row.currency)} is the factor’s`
          : 'for invoices that are ours'
    }}</template>
    <template #cell-open="{ row }"
      ><Figure :amount="row.credit.open" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #empty>No money lies on an account whose invoices are with a factor.</template>
  </SheetTable>
  <section
    v-if="passed.length"
    class="max-h-[150px] flex-none overflow-auto border-t border-rule px-[18px] py-2"
  >
    <b class="font-semibold">Passed on before</b>
    <p v-for="p in passed" :key="p.id" class="flex flex-wrap items-baseline gap-4">
      <span>{{ p.number }}</span><span class="name">{{ p.customer.name }}</span
      ><span class="text-soft">{{ dateText(p.date) }}, to {{ p.factor }}</span
      ><b class="num font-semibold">{{ amountText(p.amount, p.currency, true) }}</b
      ><button v-if="may" class="plain" @click="undoing = p">Take it back</button>
    </p>
    <p v-if="refused" class="wrong" role="alert">{{ refused }}</p>
  </section>
  <BecauseForm
    v-if="undoing"
    :what="`Take ${undoing.number} back`"
    @because="undo"
    @cancel="undoing = null"
  />
  <ProofStrip
    v-if="may"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    :verb="onward ? 'Owe it to the factor' : 'Close all three'"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
