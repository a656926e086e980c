<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import { STATEMENT_CYCLES } from '~~/contract/letters'
import { addMonths } from '~~/core/calendar'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { timeText } from '~/utils/format'

/** Statements of account to many: by e-mail, or as one file for the printer; what was sent is kept. */
type Run = Awaited<ReturnType<typeof read>>['items'][number]
const desk = useDesk()
const session = useSession()
const form = reactive({
  form: 'open-item' as 'open-item' | 'balance-forward',
  cycle: 'monthly' as (typeof STATEMENT_CYCLES)[number],
  class: '',
  asOf: session.today,
  from: addMonths(session.today, -1),
})
const read = async () => ({ ...(await call(contract.letters.runs)), next: null })
const { rows, loading, trouble: unread, reload } = usePages<Run, Awaited<ReturnType<typeof read>>>(read, [])
const { trouble, guard } = useGuard()
const busy = ref(false)
const current = ref<Run | null>(null)
const going = computed(() => rows.value.some(r => ['queued', 'running'].includes(r.state) || r.waiting > 0))
useIntervalFn(() => {
  if (going.value) void reload()
}, 1500)
async function run(): Promise<void> {
  busy.value = true
  await guard(
    () =>
      call(contract.letters.run, {
        body: { ...form, class: form.class || undefined },
      }),
    'The statements are being written.',
  )
  busy.value = false
  await reload()
}
const CYCLES: Record<(typeof STATEMENT_CYCLES)[number], string> = {
  monthly: 'who get them monthly',
  quarterly: 'who get them quarterly',
  none: 'who get none by themselves',
  all: 'everybody with anything open',
}
const STATES: Record<string, string> = {
  queued: 'waits',
  running: 'is being written',
  done: 'written',
  failed: 'failed',
  cancelled: 'stopped',
}
async function stop(job: number): Promise<void> {
  await guard(
    () => call(contract.imports.cancel, { params: { id: job } }),
    'Stopped: what was sent stays sent.',
  )
  await reload()
}
useKeys([{ key: 'g', label: 'Send the statements', when: () => !busy.value, run: () => void run() }])
</script>

<template>
  <div class="sheet-head">
    <h1>Statements</h1>
    <NuxtLink class="plain" to="/outbox">Outbox</NuxtLink>
    <span class="hint ml-auto"><kbd>7</kbd> on any list sends one to its customer</span>
  </div>
  <form class="filters" @submit.prevent="run">
    <span
      ><label class="label" for="cycle">To those </label
      ><select id="cycle" v-model="form.cycle" class="field">
        <option v-for="c in STATEMENT_CYCLES" :key="c" :value="c">{{ CYCLES[c] }}</option>
      </select></span
    >
    <span
      ><label class="label" for="st-class">of class </label
      ><select id="st-class" v-model="form.class" class="field">
        <option value="">any</option>
        <option v-for="k in session.settings?.classes ?? []" :key="k.code" :value="k.code">
          {{ k.name }}
        </option>
      </select></span
    >
    <span
      ><label class="label" for="form">telling </label
      ><select id="form" v-model="form.form" class="field">
        <option value="open-item">what is open</option>
        <option value="balance-forward">what moved, balance forward</option>
      </select></span
    >
    <span v-if="form.form === 'balance-forward'" class="flex items-baseline gap-1.5"
      ><label class="label" for="st-from">since</label
      ><DateField id="st-from" v-model="form.from" label="Since" :today="session.today"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="st-as-of">as of</label
      ><DateField id="st-as-of" v-model="form.asOf" label="As of" :today="session.today" :max="session.today"
    /></span>
    <button class="go ml-auto" :disabled="busy">Send <span class="font-normal opacity-70">G</span></button>
  </form>
  <p v-if="unread || trouble" class="wrong px-[18px]" role="alert">{{ unread || trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'at', label: 'Run', cut: true },
      { key: 'state', label: 'State', width: 120 },
      { key: 'letters', label: 'Letters', num: true, width: 80 },
      { key: 'sent', label: 'Sent', num: true, width: 80 },
      { key: 'waiting', label: 'On their way', num: true, width: 96 },
      { key: 'failed', label: 'Not delivered', num: true, width: 100 },
      { key: 'print', label: 'To print', num: true, width: 150 },
    ]"
    :rows="rows"
    :row-key="r => r.job"
    :loading="loading && !rows.length"
    label="Runs of statements"
    @cursor="
      r => {
        current = r
      }
    "
  >
    <template #cell-at="{ row }">{{ timeText(row.at) }}, {{ row.by }}</template>
    <template #cell-state="{ row }"
      >{{ STATES[row.state] ?? row.state }}
      <button v-if="row.state === 'running'" class="plain !py-0" @click="stop(row.job)">
        stop
      </button></template
    >
    <template #cell-letters="{ row }">{{ row.letters }}</template>
    <template #cell-sent="{ row }">{{ row.sent || '·' }}</template>
    <template #cell-waiting="{ row }">{{ row.waiting || '·' }}</template>
    <template #cell-failed="{ row }"
      ><span :class="row.failed ? 'wrong' : ''">{{ row.failed || '·' }}</span></template
    >
    <template #cell-print="{ row }"
      ><a
        v-if="row.print"
        class="makes text-accent"
        :href="urlOf(contract.letters.print, { id: row.job })"
        target="_blank"
        @click="desk.say({ text: 'One file with all of them, for the printer.' })"
        >{{ row.print }} in one file</a
      ><template v-else>·</template></template
    >
    <template #empty>No statements were sent to many yet.</template>
  </SheetTable>
</template>
