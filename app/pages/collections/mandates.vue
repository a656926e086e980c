<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { MANDATE_STATES, SCHEMES } from '~~/core/collections'
import { contract } from '~~/contract'
import type { MandateRow } from '~~/contract/collections'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'

/** What allows us to collect: entered, amended, suspended; those about to lapse first. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const query = reactive({
  only: 'active' as 'all' | 'active' | 'lapsing' | 'stopped',
  search: '',
  customer: String(route.query.customer ?? ''),
})
const { rows, answer, loading, trouble, more, reload } = usePages<
  MandateRow,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query })], 120)
function read(cursor: string | undefined) {
  return call(contract.mandates.list, {
    query: {
      only: query.only,
      search: query.search || undefined,
      customer: query.customer || undefined,
      limit: 60,
      cursor,
    },
  })
}
const { trouble: refused, guard } = useGuard()
const current = ref<MandateRow | null>(null)
const opened = ref<number | null>(null)
const editing = ref<'new' | 'amend' | null>(null)
const asks = ref<'suspended' | 'active' | 'cancelled' | null>(null)
const why = ref('')
const file = ref<HTMLInputElement | null>(null)
const may = computed(() => session.can('mandates.keep'))
const isLive = (m: MandateRow | null) => m?.state === 'active' || m?.state === 'suspended'
async function setState(): Promise<void> {
  const { id, version, reference } = current.value!
  const state = asks.value!
  await guard(async () => {
    await call(contract.mandates.setState, { params: { id }, body: { version, state, reason: why.value } })
    await reload()
  }, `Mandate ${reference} is ${state}.`)
  if (refused.value) return
  asks.value = null
  why.value = ''
}
async function take(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  await guard(async () => {
    const { imported } = await call(contract.mandates.import, { body: await chosen.text() })
    await reload()
    desk.say({ text: `${plural(imported, 'mandate')} taken in.` })
  }, 'Taken in.')
  if (file.value) file.value.value = ''
}
function saved(): void {
  editing.value = null
  void reload()
}
const ask = (state: 'suspended' | 'active' | 'cancelled') => {
  asks.value = state
  why.value = ''
}
useKeys([
  {
    key: 'n',
    label: 'A new mandate',
    when: () => may.value,
    run: () => {
      editing.value = 'new'
    },
  },
  {
    key: 'e',
    label: 'Amend the mandate',
    when: () => may.value && isLive(current.value),
    run: () => {
      editing.value = 'amend'
    },
  },
  {
    key: 's',
    label: 'Suspend it, or let it go on',
    when: () => may.value && isLive(current.value),
    run: () => ask(current.value!.state === 'active' ? 'suspended' : 'active'),
  },
  {
    key: 'x',
    label: 'Cancel it for good',
    when: () => may.value && isLive(current.value),
    run: () => ask('cancelled'),
  },
])
const ONLY = { active: 'active', lapsing: 'about to lapse', stopped: 'stopped', all: 'all' } as const
</script>

<template>
  <div class="sheet-head">
    <h1>Mandates</h1>
    <span v-if="answer?.lapsing" class="wrong"
      >{{ plural(answer.lapsing, 'mandate') }} about to lapse
      <button class="makes" @click="query.only = 'lapsing'">show</button></span
    >
    <span class="ml-auto flex gap-4"
      ><button v-if="may" class="plain" @click="editing = 'new'">New mandate <kbd>N</kbd></button
      ><label v-if="may" class="plain cursor-pointer"
        >Take in a CSV<input
          ref="file"
          type="file"
          accept=".csv,text/csv"
          class="sr-only"
          @change="take" /></label
      ><NuxtLink class="plain" to="/collections">Collections</NuxtLink></span
    >
  </div>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[180px]"
      placeholder="Customer, reference or IBAN"
      label="Find a mandate"
    />
    <span
      ><label class="label" for="mandates-only">Show </label
      ><select id="mandates-only" v-model="query.only" class="field">
        <option v-for="(label, value) in ONLY" :key="value" :value="value">{{ label }}</option>
      </select></span
    >
    <span v-if="query.customer" class="text-soft"
      >of {{ query.customer }}
      <button class="plain !py-0" @click="query.customer = ''">all customers</button></span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'reference', label: 'Mandate', width: 108 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'scheme', label: 'Scheme', width: 66 },
      { key: 'signed', label: 'Signed', width: 98 },
      { key: 'used', label: 'Last used', width: 98 },
      { key: 'lapses', label: 'Lapses', width: 98 },
      { key: 'next', label: 'Next as', width: 66, gives: 1 },
      { key: 'state', label: 'State', width: 96 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    :opened="opened"
    label="Mandates"
    :row-class="r => (isLive(r) ? '' : 'text-faint')"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
    @open="r => (opened = opened === r.id ? null : r.id)"
  >
    <template #cell-reference="{ row }">{{ row.reference }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-scheme="{ row }"
      ><span :title="SCHEMES[row.scheme]">{{ row.scheme }}</span></template
    >
    <template #cell-signed="{ row }">{{ dateText(row.signedOn) }}</template>
    <template #cell-used="{ row }">{{ row.lastUsed ? dateText(row.lastUsed) : 'never' }}</template>
    <template #cell-lapses="{ row }"
      ><span :class="row.lapsed || row.lapsesSoon ? 'wrong' : ''">{{
        dateText(row.lapsesOn)
      }}</span></template
    >
    <template #cell-next="{ row }">{{ row.next }}</template>
    <template #cell-state="{ row }"
      ><span :title="row.stateWhy">{{ row.lapsed ? 'Lapsed' : MANDATE_STATES[row.state] }}</span></template
    >
    <template #under="{ row }"
      ><p class="text-soft">
        {{ row.iban }} of {{ row.holder }}, {{ row.use
        }}<template v-if="row.most">, at most {{ amountText(row.most, 'EUR', true) }} at a time</template
        ><template v-if="row.noticeDays !== null">, notice of {{ plural(row.noticeDays, 'day') }}</template
        >; collected {{ row.collected }} times<template v-if="row.scan"
          >;
          <a class="makes" :href="`/api/attachments/${row.scan.id}`" target="_blank">{{
            row.scan.name
          }}</a></template
        ><template v-if="row.stateWhy">; {{ row.stateWhy }}</template
        ><template v-if="row.amended.length"
          >. The bank is told with the next collection: {{ row.amended.join(', ') }}</template
        >.
        <template v-if="may && isLive(row)"
          ><button class="plain ml-3" @click="editing = 'amend'">Amend <kbd>E</kbd></button
          ><button class="plain ml-3" @click="ask(row.state === 'active' ? 'suspended' : 'active')">
            {{ row.state === 'active' ? 'Suspend' : 'Let it go on' }} <kbd>S</kbd></button
          ><button class="plain ml-3" @click="ask('cancelled')">Cancel <kbd>X</kbd></button></template
        >
      </p></template
    >
    <template #foot
      ><tr>
        <td colspan="8">{{ plural(answer?.count ?? 0, 'mandate') }}</td>
      </tr></template
    >
    <template #empty>No mandate. <kbd>N</kbd> enters one that a customer signed.</template>
  </SheetTable>
  <form
    v-if="asks && current"
    class="filters border-t border-rule !py-2"
    @submit.prevent="setState"
    @keydown.esc="asks = null"
  >
    <b class="font-semibold">Mandate {{ current.reference }} is {{ asks }} because</b>
    <input v-model="why" v-focus class="field w-[280px]" aria-label="Why" required maxlength="200" />
    <button class="plain">{{ asks === 'cancelled' ? 'Cancel it for good' : 'Save' }}</button>
  </form>
  <MandateForm
    v-if="editing"
    :key="`${editing} ${current?.id ?? 0}`"
    :mandate="editing === 'amend' ? current : null"
    :customer="query.customer || (editing === 'new' ? (desk.card?.number ?? '') : '')"
    @saved="saved"
    @close="editing = null"
  />
</template>
