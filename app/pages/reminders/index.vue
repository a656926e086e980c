<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural, timeText } from '~/utils/format'

definePageMeta({ noCard: true })
const session = useSession()
const route = useRoute()
const customer = ref(String(route.query.customer ?? ''))
const asOf = ref(session.today)
const policy = ref('standard')
const policies = ref<{ code: string; name: string }[]>([])
const trouble = ref('')
const busy = ref(false)
type Row = {
  id: number
  asOf: string
  policy: string
  state: string
  notices: number
  at: string
  by: string
}
const {
  rows,
  answer,
  loading,
  trouble: listTrouble,
  more,
} = usePages<Row, { items: Row[]; next: string | null }>(
  cursor => call(contract.reminders.runs, { query: { limit: 50, cursor } }),
  [],
)
void call(contract.reminders.policies).then(
  p => {
    policies.value = p.items
  },
  (error: unknown) => {
    trouble.value = problemText(error)
  },
)
async function propose(): Promise<void> {
  busy.value = true
  try {
    const run = await call(contract.reminders.propose, {
      body: { asOf: asOf.value, policy: policy.value, customer: customer.value || undefined },
    })
    await navigateTo(`/reminders/${run.id}`)
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Propose a run',
    inFields: true,
    run: () => {
      void propose()
    },
  },
])
const STATES: Record<string, string> = {
  proposed: 'proposed, not sent',
  confirmed: 'sent',
  discarded: 'discarded',
}
</script>

<template>
  <div class="sheet-head">
    <h1>Reminders</h1>
    <span class="hint"
      >A run proposes what to send and says why the rest is left out. Nothing goes out before you
      confirm.</span
    >
  </div>
  <form v-if="session.can('reminders.run')" class="filters !py-3" @submit.prevent="propose">
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="as-of">as of</label
      ><DateField id="as-of" v-model="asOf" label="As of" :today="session.today" :max="session.today"
    /></span>
    <span
      ><label class="label" for="policy">Policy </label
      ><select id="policy" v-model="policy" class="field">
        <option v-for="p in policies" :key="p.code" :value="p.code">{{ p.name }}</option>
      </select></span
    >
    <span
      ><label class="label" for="scope">For </label
      ><input
        id="scope"
        v-model="customer"
        class="field w-[150px]"
        placeholder="all customers"
        title="number of one customer, or empty for all"
    /></span>
    <button class="go" :disabled="busy" data-test="propose">
      Propose a run <span class="font-normal opacity-70">Ctrl ↵</span>
    </button>
    <NuxtLink class="hint makes ml-auto" to="/setup/reminders">levels, fees and texts</NuxtLink>
    <p v-if="trouble" class="wrong w-full" role="alert">{{ trouble }}</p>
  </form>
  <p v-if="listTrouble" class="wrong px-[18px]">{{ listTrouble }}</p>
  <SheetTable
    :columns="[
      { key: 'id', label: 'Run', width: 70 },
      { key: 'asOf', label: 'As of', width: 110 },
      { key: 'policy', label: 'Policy' },
      { key: 'state', label: 'State' },
      { key: 'notices', label: 'Notices', num: true, width: 90 },
      { key: 'by', label: 'By' },
      { key: 'at', label: 'Made', width: 170 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Runs"
    @more="more"
    @open="r => navigateTo(`/reminders/${r.id}`)"
  >
    <template #cell-id="{ row }"
      ><NuxtLink class="makes font-semibold" tabindex="-1" :to="`/reminders/${row.id}`">{{
        row.id
      }}</NuxtLink></template
    >
    <template #cell-asOf="{ row }">{{ dateText(row.asOf) }}</template><template #cell-policy="{ row }">{{
      row.policy
    }}</template
    ><template #cell-state="{ row }">{{ STATES[row.state] }}</template>
    <template #cell-notices="{ row }">{{ row.notices }}</template><template #cell-by="{ row }">{{
      row.by
    }}</template
    ><template #cell-at="{ row }">{{ timeText(row.at) }}</template>
    <template #empty
      >No run yet. Propose the first: it shows what would go out before anything does.</template
    >
  </SheetTable>
  <p class="sr-only" role="status">{{ plural(rows.length, 'run') }}</p>
</template>
