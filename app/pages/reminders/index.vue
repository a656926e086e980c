<script setup lang="ts">
import { reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { RunRow } from '~~/contract/reminders'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural, timeText } from '~/utils/format'

definePageMeta({ noCard: true })
const session = useSession()
const route = useRoute()
const form = reactive({
  kind: 'reminder' as 'reminder' | 'interest',
  asOf: session.today,
  policy: '',
  customer: String(route.query.customer ?? ''),
  class: '',
  controller: '',
})
const policies = ref<{ code: string; name: string }[]>([])
const classes = ref<{ code: string; name: string }[]>([])
const controllers = ref<{ email: string; name: string }[]>([])
const trouble = ref('')
const busy = ref(false)
const {
  rows,
  answer,
  loading,
  trouble: listTrouble,
  more,
} = usePages<RunRow, { items: RunRow[]; next: string | null }>(
  cursor => call(contract.reminders.runs, { query: { limit: 50, cursor } }),
  [],
)
async function readChoices(): Promise<void> {
  try {
    const [own, all, people] = await Promise.all([
      call(contract.reminders.policies),
      call(contract.accounts.classes),
      call(contract.messages.people),
    ])
    policies.value = own.items
    classes.value = all.items
    controllers.value = people.items.filter(p => p.role !== 'sales' && p.role !== 'auditor')
  } catch (error) {
    trouble.value = problemText(error)
  }
}
void readChoices()
async function propose(): Promise<void> {
  busy.value = true
  try {
    const run = await call(contract.reminders.propose, {
      body: {
        ...form,
        customer: form.customer || undefined,
        class: form.class || undefined,
        controller: form.controller || undefined,
      },
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
const STATES: Record<RunRow['state'], string> = {
  preparing: 'being worked out',
  proposed: 'proposed, not sent',
  confirmed: 'sent',
  withdrawn: 'withdrawn',
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
    <span
      ><label class="label" for="run-kind">Run </label
      ><select id="run-kind" v-model="form.kind" class="field">
        <option value="reminder">of reminders</option>
        <option value="interest">of interest alone</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="as-of">as of</label
      ><DateField id="as-of" v-model="form.asOf" label="As of" :today="session.today" :max="session.today"
    /></span>
    <span
      ><label class="label" for="policy">Policy </label
      ><select id="policy" v-model="form.policy" class="field">
        <option value="">each by its own</option>
        <option v-for="p in policies" :key="p.code" :value="p.code">{{ p.name }}</option>
      </select></span
    >
    <span
      ><label class="label" for="scope">For </label
      ><input
        id="scope"
        v-model="form.customer"
        class="field w-[124px]"
        placeholder="all customers"
        title="number of one customer, or empty for all"
    /></span>
    <span
      ><label class="label" for="run-class">class </label
      ><select id="run-class" v-model="form.class" class="field">
        <option value="">any</option>
        <option v-for="c in classes" :key="c.code" :value="c.code">{{ c.name }}</option>
      </select></span
    >
    <span
      ><label class="label" for="run-controller">of </label
      ><select id="run-controller" v-model="form.controller" class="field">
        <option value="">anybody</option>
        <option v-for="p in controllers" :key="p.email" :value="p.email">{{ p.name }}</option>
      </select></span
    >
    <button class="go" :disabled="busy" data-test="propose">
      Propose a run <span class="font-normal opacity-70">Ctrl ↵</span>
    </button>
    <NuxtLink class="hint makes ml-auto" to="/reminders/handovers">handed over</NuxtLink>
    <NuxtLink class="hint makes" to="/reminders/worked">what worked</NuxtLink>
    <NuxtLink class="hint makes" to="/reminders/dry-run">dry-run</NuxtLink>
    <NuxtLink class="hint makes" to="/setup/reminders">policies</NuxtLink>
    <p v-if="trouble" class="wrong w-full" role="alert">{{ trouble }}</p>
  </form>
  <p v-if="listTrouble" class="wrong px-[18px]">{{ listTrouble }}</p>
  <SheetTable
    :columns="[
      { key: 'id', label: 'Run', width: 70 },
      { key: 'kind', label: 'Of', width: 110 },
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
    <template #cell-kind="{ row }">{{ row.kind === 'interest' ? 'interest' : 'reminders' }}</template>
    <template #cell-asOf="{ row }">{{ dateText(row.asOf) }}</template><template #cell-policy="{ row }">{{
      row.policy || 'each by its own'
    }}</template
    ><template #cell-state="{ row }">{{ STATES[row.state] }}</template>
    <template #cell-notices="{ row }">{{ row.notices }}</template><template #cell-by="{ row }">{{
      row.prepared ? 'the schedule' : row.by
    }}</template
    ><template #cell-at="{ row }">{{ timeText(row.at) }}</template>
    <template #empty
      >No run yet. Propose the first: it shows what would go out before anything does.</template
    >
  </SheetTable>
  <p class="sr-only" role="status">{{ plural(rows.length, 'run') }}</p>
</template>
