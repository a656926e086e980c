<script setup lang="ts">
import { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { Message } from '~~/contract/outbox'
import { usePages } from '~/composables/pages'
import { useFocusBack } from '~/composables/focus'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { plural, timeText } from '~/utils/format'
import { fill } from '~/utils/fill'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const STATES = ['all', 'queued', 'waiting', 'sent', 'failed', 'print', 'stopped'] as const
const NAMES: Record<string, string> = {
  all: 'all',
  queued: 'going out',
  waiting: 'waiting',
  sent: 'sent',
  failed: 'not delivered',
  print: 'to print',
}
const state = ref<(typeof STATES)[number]>(STATES.find(s => s === route.query.state) ?? 'all')
const { rows, answer, loading, trouble, more, reload } = usePages<Message, Awaited<ReturnType<typeof read>>>(
  read,
  [state],
)
function read(cursor: string | undefined) {
  return call(contract.outbox.list, { query: { state: state.value, limit: 100, cursor } })
}
// While messages wait, look again: they go out by themselves.
const waiting = computed(() => answer.value?.counts.queued ?? 0)
const away = computed(() => answer.value?.counts.waiting ?? 0)
useIntervalFn(() => {
  if (waiting.value && rows.value.length <= 100) void reload()
}, 2000)
type Detail = Awaited<ReturnType<typeof readOne>>
const readOne = (id: number) => call(contract.outbox.delivered, { params: { id } })
const detail = ref<Detail | null>(null)
const said = ref('')
useFocusBack(() => detail.value !== null)
async function show(row: Message): Promise<void> {
  try {
    await fill(detail, () => readOne(row.id))
    said.value = ''
  } catch (error) {
    said.value = problemText(error)
  }
}
async function again(row: Message): Promise<void> {
  try {
    await call(contract.outbox.again, { params: { id: row.id } })
    detail.value = null
    await reload()
  } catch (error) {
    said.value = problemText(error)
  }
}
const current = ref<Message | null>(null)
/** The letter that goes with a message. */
const letterOf = (m: Message): string =>
  m.noticeId ? `/api/reminders/notices/${m.noticeId}/letter` : m.letterId ? `/api/letters/${m.letterId}` : ''
useKeys([
  {
    key: 'l',
    label: 'The letter',
    when: () => Boolean(current.value && letterOf(current.value)),
    run: () => {
      window.open(letterOf(current.value!), '_blank')
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Outbox</h1>
    <NuxtLink class="plain" to="/inbox">Inbox</NuxtLink>
    <NuxtLink v-if="session.can('reminders.run')" class="plain" to="/statements">Statements to many</NuxtLink>
    <span
      ><label class="label" for="state">Show </label
      ><select id="state" v-model="state" class="field">
        <option v-for="s in STATES" :key="s" :value="s">
          {{ NAMES[s] }}{{ s !== 'all' && answer?.counts[s] ? ` (${answer.counts[s]})` : '' }}
        </option>
      </select></span
    ><span class="hint">{{
      waiting
        ? `${plural(waiting, 'message')} going out by themselves`
        : away
          ? `the mail server does not answer; ${plural(away, 'message')} tried again by themselves`
          : 'nothing waits'
    }}</span>
  </div>
  <p v-if="trouble || said" class="wrong px-[18px]">{{ trouble || said }}</p>
  <SheetTable
    :columns="[
      { key: 'state', label: 'State', width: 84 },
      { key: 'customer', label: 'Customer', cut: true },
      { key: 'subject', label: 'Subject', cut: true, gives: 2 },
      { key: 'recipient', label: 'To', cut: true, gives: 1 },
      { key: 'at', label: 'Sent', width: 176 },
      { key: 'letter', label: '', width: 60 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Messages"
    @more="more"
    @cursor="
      r => {
        current = r
        desk.choose(r.customer.number)
      }
    "
    @open="show"
  >
    <template #cell-state="{ row }"
      ><span :class="row.state === 'failed' ? 'wrong' : row.state === 'sent' ? '' : 'text-soft'">{{
        NAMES[row.state]
      }}</span></template
    >
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name }}</span></template
    >
    <template #cell-subject="{ row }">{{ row.subject }}</template><template #cell-recipient="{ row }">{{
      row.recipient || 'no e-mail address'
    }}</template>
    <template #cell-at="{ row }"
      ><span class="block max-w-[176px] truncate" :title="row.reply">{{
        row.sentAt ? timeText(row.sentAt) : row.nextTry ? `again ${timeText(row.nextTry)}` : row.reply
      }}</span></template
    >
    <template #cell-letter="{ row }"
      ><a
        v-if="letterOf(row)"
        class="makes text-accent"
        tabindex="-1"
        :href="letterOf(row)"
        target="_blank"
        @click.stop
        >letter</a
      ></template
    >
    <template #empty>{{
      state === 'all'
        ? 'Nothing was sent yet. A confirmed reminder run puts its letters here.'
        : 'Nothing in this state.'
    }}</template>
  </SheetTable>
  <Dialog :open="detail !== null" class="relative z-40" @close="detail = null">
    <div class="fixed inset-0 bg-black/15" aria-hidden="true" />
    <DialogPanel
      v-if="detail"
      class="drawer fixed inset-y-0 right-0 w-[560px] max-w-full overflow-auto p-[18px]"
      tabindex="0"
    >
      <div class="flex items-baseline">
        <DialogTitle as="h2">{{ detail.subject }}</DialogTitle><button
          class="ml-auto"
          aria-label="Close"
          @click="detail = null"
        >
          <kbd>Esc</kbd>
        </button>
      </div>
      <p class="mt-1 text-soft">
        To {{ detail.recipient || 'print' }}, {{ NAMES[detail.state]
        }}<template v-if="detail.nextTry"
          >, tried {{ plural(detail.tries, 'time') }}, again on {{ timeText(detail.nextTry) }}</template
        ><template v-if="detail.reply">. The mail server said: {{ detail.reply }}</template>
      </p>
      <button
        v-if="['failed', 'waiting'].includes(detail.state) && session.can('reminders.run')"
        class="plain"
        @click="again(detail)"
      >
        {{ detail.state === 'waiting' ? 'Send now' : 'Try again' }}
      </button>
      <template v-if="detail.received"
        ><h6 class="part-head mb-1 mt-4">As the mailbox received it</h6>
        <p class="text-soft">From {{ detail.received.from }} to {{ detail.received.to }}</p>
        <pre class="mt-3 whitespace-pre-wrap font-sans">{{ detail.received.text }}</pre>
        <p v-for="a in detail.received.attachments" :key="a.name" class="mt-3">
          <a class="plain" :href="letterOf(detail)" target="_blank">{{ a.name }}</a>
          {{ ' ' }}
          <span class="hint">{{ a.type }}, {{ Math.ceil(a.bytes / 1024) }} KB</span>
        </p></template
      >
      <pre v-else class="mt-4 whitespace-pre-wrap font-sans">{{ detail.text }}</pre>
    </DialogPanel>
  </Dialog>
</template>
