<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { earliestCollection } from '~~/core/collections'
import { contract } from '~~/contract'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText } from '~/utils/format'

/** Collections by direct debit: proposed for a day, announced, sent; and those of before. */
definePageMeta({ noCard: true })
const session = useSession()
type Row = Awaited<ReturnType<typeof read>>['items'][number]
const { rows, answer, loading, trouble, more } = usePages<Row, Awaited<ReturnType<typeof read>>>(read, [])
function read(cursor: string | undefined) {
  return call(contract.collections.runs, { query: { limit: 50, cursor } })
}
const policy = computed(() => session.settings?.paymentPolicy)
const SOON_DAYS = 5
const form = reactive({
  collectOn: earliestCollection(session.today, SOON_DAYS),
  dueBy: '',
  scheme: '' as '' | 'CORE' | 'B2B',
})
const may = computed(() => session.can('collections.run'))
const busy = ref(false)
const refused = ref('')
async function propose(): Promise<void> {
  busy.value = true
  try {
    const run = await call(contract.collections.propose, {
      body: {
        collectOn: form.collectOn,
        dueBy: form.dueBy || undefined,
        scheme: form.scheme || undefined,
      },
    })
    await navigateTo(`/collections/${run.id}`)
  } catch (error) {
    refused.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  { key: 'Ctrl+Enter', label: 'Propose a collection', inFields: true, run: () => void propose() },
  {
    key: 'm',
    label: 'Mandates',
    run: () => {
      void navigateTo('/collections/mandates')
    },
  },
  {
    key: 'b',
    label: 'What came back',
    run: () => {
      void navigateTo('/collections/payments')
    },
  },
])
const stateOf = (r: Row) => {
  if (r.state === 'proposed') return r.again ? 'proposed again, not confirmed' : 'proposed, nobody was told'
  if (r.state === 'discarded') return 'discarded'
  return session.today <= r.sendBy ? `announced; files by ${dateText(r.sendBy)}` : 'announced and sent'
}
</script>

<template>
  <div class="sheet-head">
    <h1>Collections</h1>
    <span class="hint">Proposed for a day, announced to the customers, then sent to the bank as a file.</span>
    <span class="ml-auto flex gap-4"
      ><NuxtLink class="plain" to="/collections/payments">Single collections <kbd>B</kbd></NuxtLink
      ><NuxtLink class="plain" to="/collections/mandates">Mandates <kbd>M</kbd></NuxtLink></span
    >
  </div>
  <p v-if="policy && !policy.creditorId" class="px-[18px] pb-2">
    We have no creditor identifier yet: nothing can be collected.
    <NuxtLink class="makes" to="/setup/payments">Enter it in Setup</NuxtLink>
  </p>
  <form v-if="may" class="filters !py-3" @submit.prevent="propose">
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="collect-on">Collect on</label
      ><DateField id="collect-on" v-model="form.collectOn" label="Collect on" :today="session.today"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="due-by">what is due by</label
      ><DateField id="due-by" v-model="form.dueBy" label="Due by" :today="session.today"
    /></span>
    <span
      ><label class="label" for="scheme">by mandates of </label
      ><select id="scheme" v-model="form.scheme" class="field">
        <option value="">both schemes</option>
        <option value="CORE">CORE</option>
        <option value="B2B">B2B</option>
      </select></span
    >
    <button class="go" :disabled="busy" data-test="propose">
      Propose a collection <span class="font-normal opacity-70">Ctrl ↵</span>
    </button>
    <span class="hint"
      >notice of {{ policy?.noticeDays }} days, or as agreed by mandate; due by the day itself when left
      empty</span
    >
    <p v-if="refused" class="wrong w-full" role="alert">{{ refused }}</p>
  </form>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'id', label: 'Collection', width: 84 },
      { key: 'collectOn', label: 'On', width: 104 },
      { key: 'dueBy', label: 'Due by', width: 104 },
      { key: 'scheme', label: 'Scheme', width: 76 },
      { key: 'state', label: 'Where it stands', cut: true },
      { key: 'by', label: 'By', width: 130 },
      { key: 'collections', label: 'Customers', num: true, width: 84 },
      { key: 'amount', label: 'Amount, EUR', num: true, width: 124 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Collections"
    :row-class="r => (r.state === 'discarded' ? 'text-faint' : '')"
    @more="more"
    @open="r => navigateTo(`/collections/${r.id}`)"
  >
    <template #cell-id="{ row }"
      ><NuxtLink class="makes font-semibold" tabindex="-1" :to="`/collections/${row.id}`">{{
        row.id
      }}</NuxtLink></template
    >
    <template #cell-collectOn="{ row }">{{ dateText(row.collectOn) }}</template>
    <template #cell-dueBy="{ row }">{{ dateText(row.dueBy) }}</template>
    <template #cell-scheme="{ row }">{{ row.scheme || 'both' }}</template>
    <template #cell-state="{ row }">{{ stateOf(row) }}</template>
    <template #cell-by="{ row }">{{ row.confirmedBy ?? row.by }}</template>
    <template #cell-collections="{ row }">{{ row.collections }}</template>
    <template #cell-amount="{ row }"><Figure :amount="row.amount" currency="EUR" /></template>
    <template #empty
      >Nothing was collected yet. Propose the first: nobody is told before you confirm.</template
    >
  </SheetTable>
</template>
