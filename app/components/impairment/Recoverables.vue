<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { Recoverable } from '~~/contract/impairment'
import { split } from '~~/core/money'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'

/** Money on accounts of which something was written off: which of it is that, come back after all. */
const props = defineProps<{ customer: string }>()
const desk = useDesk()
const session = useSession()
const rows = ref<Recoverable[]>([])
const loading = ref(false)
const trouble = ref('')
const current = ref<Recoverable | null>(null)
const amounts = reactive(new Map<number, number | null>())
const busy = ref(false)
let key = crypto.randomUUID()
const may = computed(() => session.can('impairment.post'))

async function load(): Promise<void> {
  loading.value = true
  try {
    const { items } = await call(contract.impairment.recoverable, {
      query: { customer: props.customer || undefined },
    })
    rows.value = items
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    loading.value = false
  }
}
watch(() => props.customer, load, { immediate: true })

/** The money over all that was written off, by what of each is lost: a dividend pays a share of each. */
function spread(row: Recoverable | null): void {
  amounts.clear()
  if (!row) return
  const lost = row.writeOffs.map(w => w.left)
  const all = lost.reduce((a, b) => a + b, 0)
  const parts = split(Math.min(row.credit.open, all), lost)
  row.writeOffs.forEach((w, n) => amounts.set(w.id, parts[n] || null))
}
const parts = computed(() =>
  [...amounts].flatMap(([writeOffId, amount]) => (amount ? [{ writeOffId, amount }] : [])),
)
const body = computed(() =>
  current.value && parts.value.length && may.value
    ? { creditItemId: current.value.credit.id, parts: parts.value }
    : null,
)
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () => (body.value ? call(contract.impairment.recoveryProof, { body: body.value }) : null),
  [body],
)
const reason = computed(() => (body.value ? proofTrouble.value : 'choose money, and say what it pays'))
async function post(): Promise<void> {
  if (!body.value || busy.value || !ready.value) return
  busy.value = true
  try {
    const { numbers } = await call(contract.impairment.recover, { body: body.value, key })
    key = crypto.randomUUID()
    current.value = null
    amounts.clear()
    desk.say({ text: `Posted as ${numbers.join(', ')}.` })
    await Promise.all([load(), desk.refresh()])
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([{ key: 'Ctrl+Enter', label: 'Post what came back', inFields: true, run: () => void post() }])
</script>

<template>
  <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'credit', label: 'Money', width: 108 },
      { key: 'date', label: 'Of', width: 98 },
      { key: 'owes', label: 'They owe', num: true, width: 110 },
      { key: 'lost', label: 'Written off', num: true, width: 118 },
      { key: 'open', label: 'Not assigned', num: true, width: 128 },
    ]"
    :rows="rows"
    :row-key="r => r.credit.id"
    :more="false"
    :loading="loading"
    :opened="current?.credit.id ?? null"
    label="Money that may be recovered"
    @cursor="
      r => {
        if (r.credit.id === current?.credit.id) return
        current = r
        spread(r)
        desk.choose(r.customer.number)
      }
    "
  >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-credit="{ row }">{{ row.credit.number }}</template>
    <template #cell-date="{ row }">{{ dateText(row.credit.date) }}</template>
    <template #cell-owes="{ row }"><Figure :amount="row.owes" :currency="row.currency" /></template>
    <template #cell-lost="{ row }"
      ><Figure :amount="row.writeOffs.reduce((a, w) => a + w.left, 0)" :currency="row.currency"
    /></template>
    <template #cell-open="{ row }"
      ><Figure :amount="row.credit.open" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #under="{ row }">
      <p v-if="row.owes" class="wrong">
        The account still owes {{ amountText(row.owes, row.currency, true) }}: allocating the money comes
        first.
        <NuxtLink class="makes" :to="`/receipts/new?customer=${row.customer.number}&credit=${row.credit.id}`"
          >Allocate it</NuxtLink
        >
      </p>
      <p v-for="w in row.writeOffs" :key="w.id" class="flex items-baseline gap-3">
        <label class="label w-[320px]" :for="`back-${w.id}`"
          >{{ w.of }}, {{ w.number }}, {{ amountText(w.left, row.currency, true) }} lost: of it came
          back</label
        ><MoneyField
          :id="`back-${w.id}`"
          :model-value="amounts.get(w.id) ?? null"
          :currency="row.currency"
          label="Of it came back"
          class="min-h-6 w-[120px]"
          @update:model-value="v => amounts.set(w.id, v)"
        />
      </p>
    </template>
    <template #empty>No money lies on an account of which something was written off.</template>
  </SheetTable>
  <slot />
  <ProofStrip
    v-if="may"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Recover"
    after="to income; tax that was claimed back is owed again"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
