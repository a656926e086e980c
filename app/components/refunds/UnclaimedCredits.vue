<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { Refundable } from '~~/contract/refunds'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

/** Small credits that nobody claims: written to, then taken off by a person, as the country's rule says. */
const emit = defineEmits<{ posted: [] }>()
const desk = useDesk()
const session = useSession()
const { rows, answer, loading, trouble, more, reload } = usePages<
  Refundable,
  Awaited<ReturnType<typeof read>>
>(read, [])
function read(cursor: string | undefined) {
  return call(contract.refunds.credits, { query: { only: 'unclaimed', limit: 60, cursor } })
}
const { trouble: refused, guard } = useGuard()
const current = ref<Refundable | null>(null)
const chosen = reactive(new Map<number, Refundable>())
const form = reactive({ to: 'income' as 'income' | 'owed', reason: '' })
const may = computed(() => session.can('refunds.post'))
const busy = ref(false)
let key = crypto.randomUUID()
function toggle(credit: Refundable | null): void {
  if (!credit || credit.waiting !== null) return
  if (chosen.has(credit.id)) chosen.delete(credit.id)
  else {
    chosen.set(credit.id, credit)
    if (credit.lapse.to) form.to = credit.lapse.to
  }
}
const body = computed(() => ({ itemIds: [...chosen.keys()], to: form.to, reason: form.reason.trim() }))
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () => (chosen.size && body.value.reason ? call(contract.refunds.lapseProof, { body: body.value }) : null),
  [body],
)
const reason = computed(() => {
  if (!chosen.size) return 'tick what nobody claims'
  return body.value.reason ? proofTrouble.value : 'say why in a few words'
})
async function post(): Promise<void> {
  if (reason.value || busy.value || !ready.value) return
  busy.value = true
  await guard(async () => {
    const done = await call(contract.refunds.lapse, { body: body.value, key })
    key = crypto.randomUUID()
    chosen.clear()
    form.reason = ''
    await Promise.all([reload(), desk.refresh()])
    desk.say({ text: done.waiting ? 'It waits in Sign-off for a second person.' : 'Taken off the accounts.' })
    emit('posted')
  }, 'Done.')
  busy.value = false
}
async function write(): Promise<void> {
  const itemIds = chosen.size ? [...chosen.keys()] : current.value ? [current.value.id] : []
  if (!itemIds.length) return
  await guard(async () => {
    await call(contract.refunds.remind, { body: { itemIds } })
    await reload()
  }, 'The customers are written to.')
}
useKeys([
  { key: ' ', label: 'Choose it, or not', when: () => may.value, run: () => toggle(current.value) },
  {
    key: 'w',
    label: 'Write to the customer',
    when: () => session.can('letters.send'),
    run: () => void write(),
  },
  { key: 'Ctrl+Enter', label: 'Take them off', inFields: true, run: () => void post() },
])
const TO = { income: 'to income', owed: 'owed further, outside the account' } as const
</script>

<template>
  <div class="filters">
    <span
      ><label class="label" for="lapse-to">Take off </label
      ><select id="lapse-to" v-model="form.to" class="field">
        <option v-for="(label, value) in TO" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span
      ><label class="label" for="lapse-why">because </label
      ><input id="lapse-why" v-model="form.reason" class="field w-[240px]" maxlength="200"
    /></span>
    <button v-if="session.can('letters.send')" class="plain" @click="write">
      Write to the customers <kbd>W</kbd>
    </button>
    <NuxtLink class="hint makes ml-auto" to="/setup/payments">terms by country</NuxtLink>
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'pick', label: '', width: 34 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'country', label: 'In', width: 44 },
      { key: 'number', label: 'Credit', width: 104 },
      { key: 'date', label: 'Since', width: 100 },
      { key: 'wrote', label: 'Written to', width: 100 },
      { key: 'rule', label: 'May be taken off', cut: true },
      { key: 'open', label: 'Credit', num: true, width: 118 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Unclaimed credits"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
  >
    <template #cell-pick="{ row }"
      ><input
        type="checkbox"
        class="tick"
        tabindex="-1"
        :checked="chosen.has(row.id)"
        :disabled="!may || row.waiting !== null"
        :aria-label="`Take ${row.number} off`"
        @click.stop.prevent="toggle(row)"
    /></template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span
      ><span v-if="row.waiting" class="aside ml-1.5">waits for a signature</span></template
    >
    <template #cell-country="{ row }">{{ row.country }}</template>
    <template #cell-number="{ row }">{{ row.number }}</template>
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-wrote="{ row }">{{ row.wrote ? dateText(row.wrote) : 'not yet' }}</template>
    <template #cell-rule="{ row }"
      ><template v-if="row.lapse.may">now{{ row.lapse.to ? `, ${TO[row.lapse.to]}` : '' }}</template
      ><template v-else>from {{ dateText(row.lapse.on) }}</template></template
    >
    <template #cell-open="{ row }"
      ><Figure :amount="row.open" :currency="row.currency" /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #foot
      ><tr v-if="answer">
        <td colspan="7">{{ plural(answer.totals.count, 'small credit') }}</td>
        <td class="num"><Figure :amount="answer.totals.open" :currency="answer.totals.base" zero /></td></tr
    ></template>
    <template #empty>No small credit has lain that long.</template>
  </SheetTable>
  <ProofStrip
    v-if="may && rows.length"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Take them off"
    after="a second person signs"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
