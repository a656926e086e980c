<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { CollectionLeftOutRow, CollectionRow, CollectionRun } from '~~/contract/collections'
import type { Proof } from '~~/contract/receipts'
import { useGuard } from '~/composables/guard'
import { useJob } from '~/composables/job'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { newest } from '~/utils/fill'

/** One collection: proposed, announced, made into files, given to the bank. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = computed(() => Number(route.params.id))
const run = ref<CollectionRun | null>(null)
const proof = ref<Proof | null>(null)
const search = ref('')
const view = ref<'in' | 'out'>('in')
const { trouble, guard, complain } = useGuard()
const list = usePages<CollectionRow, { items: CollectionRow[]; next: string | null }>(
  cursor =>
    call(contract.collections.rows, {
      params: { id: id.value },
      query: { search: search.value || undefined, limit: 80, cursor },
    }),
  [search],
  150,
)
const out = usePages<CollectionLeftOutRow, { items: CollectionLeftOutRow[]; next: string | null }>(
  cursor =>
    call(contract.collections.leftOut, {
      params: { id: id.value },
      query: { search: search.value || undefined, limit: 80, cursor },
    }),
  [search],
  150,
)
const { rows } = list
const leftOut = out.rows
/** A proposal and its Proof come together: what is confirmed is what is in sight. */
const asking = newest()
async function load(): Promise<void> {
  const isNewest = asking()
  const now = await call(contract.collections.run, { params: { id: id.value } })
  const proves = now.state === 'proposed' && session.can('collections.run')
  const proved = proves ? await call(contract.collections.proof, { params: { id: id.value } }) : null
  if (!isNewest()) return
  run.value = now
  proof.value = proved
  if (now.job !== null) void followJob(now.job)
}
const { job, follow } = useJob()
const following = ref(0)
/** A large one is announced by a job: the page waits for its end. */
async function followJob(jobId: number): Promise<void> {
  if (following.value === jobId) return
  following.value = jobId
  const ended = await follow(jobId).catch(() => null)
  following.value = 0
  await loadAll().catch(complain)
  if (ended?.state === 'done') desk.say({ text: ANNOUNCED })
  else trouble.value = ended?.detail ?? 'the line broke off: reload the page'
}
const loadAll = () => Promise.all([load(), list.reload(), out.reload()])
watch(id, () => void load().catch(complain), { immediate: true })

const current = ref<CollectionRow | null>(null)
const opened = ref<number | null>(null)
const asks = ref<'leave' | 'discard' | 'drop' | null>(null)
const why = ref('')
const told = ref<string[]>([])
const busy = ref(false)
const open = computed(
  () => run.value?.state === 'proposed' && run.value.job === null && session.can('collections.run'),
)
const announced = computed(() => run.value?.totals.byState.find(s => s.state === 'announced')?.count ?? 0)
const inFiles = computed(
  () => run.value?.files.filter(f => f.state === 'made').reduce((a, f) => a + f.payments, 0) ?? 0,
)
const toFile = computed(() => announced.value - inFiles.value)
const maySend = computed(() => session.can('payments.send'))

async function keep(): Promise<void> {
  const what = asks.value
  const reason = why.value.trim()
  const version = run.value!.version
  await guard(
    async () => {
      if (what === 'leave')
        await call(contract.collections.edit, {
          params: { id: id.value },
          body: { version, customer: current.value!.customer.number, leaveOut: reason, items: {} },
        })
      else if (what === 'drop')
        await call(contract.collections.drop, { params: { id: current.value!.id }, body: { reason } })
      else await call(contract.collections.discard, { params: { id: id.value }, body: { version, reason } })
      await loadAll()
    },
    what === 'leave' ? `${current.value!.customer.name} is left out.` : 'Done.',
  )
  if (trouble.value) return
  asks.value = null
  why.value = ''
}
async function takeIn(row: CollectionLeftOutRow): Promise<void> {
  await guard(async () => {
    await call(contract.collections.edit, {
      params: { id: id.value },
      body: { version: run.value!.version, customer: row.customer.number, leaveOut: null, items: {} },
    })
    await loadAll()
  }, `${row.customer.name} is in again.`)
}
const ANNOUNCED = 'Announced: the customers are told, and its items are on their way.'
async function confirm(): Promise<void> {
  if (!open.value || busy.value) return
  busy.value = true
  await guard(async () => {
    await call(contract.collections.confirm, {
      params: { id: id.value },
      body: { version: run.value!.version },
      key: `collect-${id.value}-${run.value!.version}`,
    })
    await loadAll()
    // A large one is not announced yet: its job tells when it is.
    if (run.value?.job === null) desk.say({ text: ANNOUNCED })
  }, '')
  busy.value = false
}
/** Makes the files of what was announced, and gives them to the bank. */
async function send(): Promise<void> {
  if (busy.value) return
  busy.value = true
  await guard(async () => {
    if (toFile.value > 0) {
      const made = await call(contract.collections.files, {
        params: { id: id.value },
        key: crypto.randomUUID(),
      })
      told.value = made.dropped
      run.value = made.run
    }
    for (const file of run.value!.files.filter(f => f.state === 'made'))
      await call(contract.payments.send, { params: { id: file.id } })
  }, 'The files are with the bank.')
  await loadAll().catch(complain)
  busy.value = false
}
const canSend = () =>
  maySend.value && run.value?.state === 'confirmed' && (toFile.value > 0 || inFiles.value > 0)
const canDrop = () => current.value?.state === 'announced' && current.value.file === null
const SEQUENCES: Record<string, string> = { FRST: 'first', RCUR: 'recurring', OOFF: 'one-off', FNAL: 'final' }
const sequences = computed(() =>
  (run.value?.totals.bySequence ?? [])
    .map(s => `${s.scheme} ${s.count} ${SEQUENCES[s.sequence] ?? s.sequence}`)
    .join(', '),
)
const STATES = {
  proposed: 'proposed, nobody was told',
  confirmed: 'announced',
  discarded: 'discarded',
} as const
const ask = (what: 'leave' | 'discard' | 'drop') => {
  asks.value = what
  why.value = ''
}
useKeys([
  {
    key: ' ',
    label: 'Leave the customer out',
    when: () => open.value && view.value === 'in' && current.value !== null && !asks.value,
    run: () => ask('leave'),
  },
  {
    key: 'o',
    label: 'What is left out, and why',
    run: () => {
      view.value = view.value === 'out' ? 'in' : 'out'
    },
  },
  {
    key: 'd',
    label: 'Drop the collection of this row',
    when: () => run.value?.state === 'confirmed' && canDrop() && !asks.value,
    run: () => ask('drop'),
  },
  { key: 'g', label: 'Make the files and give them to the bank', when: canSend, run: () => void send() },
  {
    key: 'Ctrl+Enter',
    label: 'Confirm and announce',
    inFields: true,
    when: () => open.value && !asks.value,
    run: () => void confirm(),
  },
])
</script>

<template>
  <p v-if="!run && trouble" class="wrong p-[18px]">{{ trouble }}</p>
  <template v-if="run">
    <div class="sheet-head">
      <h1>{{ run.again ? 'Presented again' : 'Collection' }} {{ run.id }}</h1>
      <span class="text-soft"
        >on {{ dateText(run.collectOn) }}, what is due by {{ dateText(run.dueBy) }}, to {{ run.account }};
        {{ STATES[run.state] }}<template v-if="run.confirmedBy"> by {{ run.confirmedBy }}</template></span
      >
      <span class="ml-auto flex gap-4"
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'in' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          @click="view = 'in'"
        >
          Customers {{ run.totals.collections }}</button
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'out' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          data-test="left-out"
          @click="view = 'out'"
        >
          Left out {{ run.totals.leftOutLines }} <kbd>O</kbd>
        </button></span
      >
    </div>
    <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">{{ trouble }}</p>
    <p v-if="run.job !== null" class="px-[18px] pb-2" role="status">
      It is being announced: {{ job?.step || 'waits for its turn' }}.
    </p>
    <p v-if="told.length" class="px-[18px] pb-2" role="status">
      <b class="font-semibold">Dropped before it went:</b> {{ told.join('; ') }}.
    </p>
    <div class="filters">
      <span
        ><label class="label" for="run-search">Customer </label
        ><input id="run-search" v-model="search" class="field w-[180px]" placeholder="name, number or item"
      /></span>
      <span v-if="open" class="hint"
        ><kbd>Space</kbd> leave out <kbd>Enter</kbd> its items <kbd>O</kbd> what is left out</span
      >
      <span v-for="f in run.files" :key="f.id" class="text-soft"
        ><NuxtLink class="makes" to="/collections/payments?part=files">{{ f.number }}</NuxtLink>
        {{ f.scheme }}, {{ plural(f.payments, 'payment') }}, {{ amountText(f.total, 'EUR', true) }}:
        {{ f.state }}</span
      >
    </div>
    <CollectionTable
      v-if="view === 'in'"
      :rows="rows"
      :more="Boolean(list.answer.value?.next)"
      :loading="list.loading.value"
      :opened="opened"
      :open="open"
      is-run
      label="Collections of customers"
      @more="list.more"
      @leave="
        r => {
          current = r
          ask('leave')
        }
      "
      @cursor="
        r => {
          current = r
          desk.choose(r.customer.number)
        }
      "
      @open="r => (opened = opened === r.id ? null : r.id)"
    >
      <template #foot
        >{{ plural(run.totals.collections, 'customer')
        }}<span class="ml-4 font-normal text-soft"
          >discount <Figure :amount="run.totals.discount" currency="EUR" zero />, less credits
          <Figure :amount="run.totals.credits" currency="EUR" zero /></span
        ><span class="float-right"><Figure :amount="run.totals.amount" currency="EUR" zero /></span
      ></template>
      <template #empty
        >Nothing is collected. <button class="plain" @click="view = 'out'">See why</button></template
      >
    </CollectionTable>
    <CollectionLeftOut
      v-else
      :rows="leftOut"
      :more="Boolean(out.answer.value?.next)"
      :loading="out.loading.value"
      :total="run.totals.leftOut"
      :open="open"
      @more="out.more"
      @take="takeIn"
      @cursor="r => desk.choose(r.customer.number)"
    />
    <form
      v-if="asks"
      class="filters border-t border-rule !py-2"
      @submit.prevent="keep"
      @keydown.esc="asks = null"
    >
      <b class="font-semibold">{{
        asks === 'discard' ? 'Discard it because' : `Without ${current?.customer.name} because`
      }}</b>
      <input v-model="why" v-focus class="field w-[280px]" aria-label="Why" required maxlength="200" />
      <button class="plain">{{ asks === 'discard' ? 'Discard it' : 'Leave it out' }}</button>
    </form>
    <ProofStrip
      v-if="open"
      :proof="proof"
      :reason="run.totals.collections ? '' : 'nothing is collected'"
      :busy="busy"
      verb="Announce"
      after="posted on the day of collection"
      :labels="[]"
      @post="confirm"
    >
      <template #changes>
        <p class="max-w-[320px] text-soft">
          {{ sequences }}. On {{ dateText(run.collectOn) }} a receipt for each; until then nothing is posted,
          and its items are not reminded. Files by {{ dateText(run.sendBy) }}.
        </p>
        <button class="hint makes mt-1" @click="ask('discard')">Discard the proposal</button>
      </template>
    </ProofStrip>
    <section
      v-else-if="canSend()"
      class="flex flex-none items-center gap-6 border-t-2 border-ink bg-sheet px-[18px] py-3"
      aria-label="To the bank"
    >
      <p>
        <b class="font-semibold">{{ plural(announced, 'collection') }} to send</b> by
        {{ dateText(run.sendBy) }}. What was paid or disputed since is dropped and told.
      </p>
      <button class="go ml-auto" :disabled="busy" data-test="send" @click="send">
        Give to the bank <kbd>G</kbd>
      </button>
    </section>
  </template>
</template>
