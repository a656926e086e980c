<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { RETURN_ACTIONS, RETURN_REASONS, type ReturnAction } from '~~/core/payments'
import { contract } from '~~/contract'
import type { CollectionRow } from '~~/contract/collections'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { usePart } from '~/composables/part'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { plural } from '~/utils/format'

/** Single collections: those that came back are worked here, one key each. */
const PARTS = {
  back: 'Came back',
  'on-its-way': 'On their way',
  'not-final': 'Not final',
  all: 'All',
  files: 'Files',
} as const
const desk = useDesk()
const session = useSession()
const { part, customer } = usePart(PARTS, 'back')
const query = reactive({ part, customer, search: '' })
const { rows, answer, loading, trouble, more, reload } = usePages<
  CollectionRow,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query })], 120)
function read(cursor: string | undefined) {
  return call(contract.collections.list, {
    query: {
      only: query.part === 'files' ? 'all' : query.part,
      search: query.search || undefined,
      customer: query.customer || undefined,
      limit: 60,
      cursor,
    },
  })
}
const { trouble: refused, guard } = useGuard()
const current = ref<CollectionRow | null>(null)
const opened = ref<number | null>(null)
const returning = ref(false)
const back = reactive({ code: 'AM04' })
const may = computed(() => session.can('collections.run'))
const waits = computed(() => may.value && Boolean(current.value?.back && !current.value.back.done))
const canReturn = computed(
  () => may.value && (current.value?.state === 'collected' || current.value?.state === 'sent'),
)
async function work(action: ReturnAction): Promise<void> {
  const row = current.value
  if (!row || !waits.value) return
  await guard(async () => {
    const done = await call(contract.collections.work, { params: { id: row.id }, body: { action } })
    await Promise.all([reload(), desk.refresh()])
    if (done.run) desk.say({ text: `Proposed again in collection ${done.run}: confirm it there.` })
  }, `${row.number}: ${RETURN_ACTIONS[action].toLowerCase()}.`)
}
async function returnIt(): Promise<void> {
  const row = current.value!
  await guard(async () => {
    await call(contract.collections.return, {
      params: { id: row.id },
      body: { code: back.code },
      key: crypto.randomUUID(),
    })
    await Promise.all([reload(), desk.refresh()])
  }, `${row.number} came back: its items are open again.`)
  if (!refused.value) returning.value = false
}
const KEYS: Record<string, ReturnAction> = { p: 'again', t: 'stop', c: 'chase', k: 'correct' }
useKeys([
  ...Object.entries(KEYS).map(([key, action]) => ({
    key,
    label: RETURN_ACTIONS[action],
    when: () => waits.value,
    run: () => void work(action),
  })),
  {
    key: 'Ctrl+Enter',
    label: 'Do what Setup says for its reason',
    inFields: true,
    when: () => waits.value,
    run: () => void work(current.value!.back!.action),
  },
  {
    key: 'r',
    label: 'It came back, by hand',
    when: () => canReturn.value,
    run: () => {
      returning.value = true
    },
  },
])
</script>

<template>
  <PartsHead v-model="query.part" title="Single collections" :parts="PARTS">
    <NuxtLink class="plain ml-auto" to="/collections">Collections</NuxtLink>
  </PartsHead>
  <PaymentFiles v-if="query.part === 'files'" kind="debit" @changed="reload" />
  <template v-else>
    <div class="filters">
      <FindField
        v-model="query.search"
        class="w-[180px]"
        placeholder="Customer, number or item"
        label="Find a collection"
      />
      <span v-if="query.customer" class="text-soft"
        >of {{ query.customer }}
        <button class="plain !py-0" @click="query.customer = ''">all customers</button></span
      >
    </div>
    <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
    <CollectionTable
      :rows="rows"
      :more="Boolean(answer?.next)"
      :loading="loading"
      :opened="opened"
      :open="false"
      :is-run="false"
      label="Single collections"
      @more="more"
      @cursor="
        r => {
          current = r
          desk.choose(r.customer.number)
        }
      "
      @open="r => (opened = opened === r.id ? null : r.id)"
    >
      <template #foot
        >{{ plural(answer?.totals.count ?? 0, 'collection')
        }}<span class="ml-4 font-normal text-soft"
          ><Figure :amount="answer?.totals.amount ?? 0" currency="EUR" zero /> EUR</span
        ></template
      >
      <template #empty>{{
        query.part === 'back' ? 'Nothing came back that is not worked.' : 'None.'
      }}</template>
    </CollectionTable>
    <section
      v-if="waits && current?.back"
      class="flex flex-none flex-wrap items-center gap-4 border-t-2 border-ink bg-sheet px-[18px] py-3"
      aria-label="What to do"
    >
      <p>
        <b class="font-semibold">{{ current.customer.name }}: {{ current.back.label }}</b> ({{
          current.back.code
        }}). Setup says: {{ RETURN_ACTIONS[current.back.action].toLowerCase()
        }}<template v-if="current.back.again">; presented again {{ current.back.again }} times</template>.
      </p>
      <span class="ml-auto flex gap-3"
        ><button class="plain" @click="work('again')">Present again <kbd>P</kbd></button
        ><button class="plain" @click="work('chase')">Chase <kbd>C</kbd></button
        ><button class="plain" @click="work('stop')">Stop the mandate <kbd>T</kbd></button
        ><button class="plain" @click="work('correct')">Correct the account <kbd>K</kbd></button
        ><button class="go" @click="work(current.back.action)">
          {{ RETURN_ACTIONS[current.back.action] }} <span class="font-normal opacity-70">Ctrl ↵</span>
        </button></span
      >
    </section>
    <form
      v-if="returning && current"
      class="filters border-t border-rule !py-2"
      @submit.prevent="returnIt"
      @keydown.esc="returning = false"
    >
      <b class="font-semibold">{{ current.number }} came back because</b>
      <select v-model="back.code" v-focus class="field w-[300px]" aria-label="Reason">
        <option v-for="(r, code) in RETURN_REASONS" :key="code" :value="code">
          {{ code }} {{ r.label }}
        </option>
      </select>
      <button class="plain">It came back</button>
      <span class="hint"
        >its receipt is reversed, its items are open again, the fee of Setup is charged on</span
      >
    </form>
  </template>
</template>
