<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { Message } from '~~/contract/messages'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'

/** Words of colleagues about accounts, and tasks; the answers stand on the account. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const box = ref<'mine' | 'tasks' | 'sent'>('mine')
const {
  rows,
  answer,
  loading,
  trouble: unread,
  more,
  reload,
} = usePages<Message, { items: Message[]; next: string | null }>(
  async cursor => {
    const { items, next } = await call(contract.messages.list, {
      query: { box: box.value, limit: 60, before: cursor ? Number(cursor) : undefined },
    })
    return { items, next: next === null ? null : String(next) }
  },
  [box],
)
const current = ref<Message | null>(null)
const words = ref('')
const field = ref<HTMLInputElement | null>(null)
const { trouble, guard, complain } = useGuard()
async function look(row: Message): Promise<void> {
  current.value = row
  words.value = ''
  void desk.choose(row.customer.number)
  if (!row.unread) return
  try {
    await call(contract.messages.read, { params: { id: row.id }, body: {} })
    row.unread = false
    await desk.countUnread()
  } catch (error) {
    complain(error)
  }
}
watch(rows, list => {
  const asked = list.find(
    r => String(r.id) === route.query.id || r.answers.some(a => String(a.id) === route.query.id),
  )
  if (asked) void look(asked)
})
async function answerIt(): Promise<void> {
  const { id } = current.value!
  await guard(
    () => call(contract.messages.answer, { params: { id }, body: { text: words.value } }),
    'Answered; it stands on the account.',
  )
  if (!trouble.value) await reload()
}
async function done(): Promise<void> {
  const { id, done: was } = current.value!
  await guard(
    () => call(contract.messages.done, { params: { id }, body: { done: was === null } }),
    was === null ? 'Done.' : 'Open again.',
  )
  await Promise.all([reload(), desk.countUnread()])
}
const may = computed(() => Boolean(current.value) && session.can('messages.write'))
useKeys([
  { key: 'a', label: 'Answer', when: () => may.value, run: () => field.value?.focus() },
  {
    key: 'd',
    label: 'The task is done',
    when: () => may.value && current.value?.due !== null,
    run: () => void done(),
  },
  {
    key: 'l',
    label: 'What it is about',
    when: () => Boolean(current.value),
    run: () => navigateTo(current.value!.link.to),
  },
])
const BOXES = { mine: 'To me', tasks: 'My tasks', sent: 'By me' } as const
</script>

<template>
  <PartsHead v-model="box" title="Messages" :parts="BOXES">
    <span class="hint ml-auto"><kbd>9</kbd> on any list writes about its customer</span>
  </PartsHead>
  <p v-if="unread" class="wrong px-[18px]" role="alert">{{ unread }}</p>
  <SheetTable
    :columns="[
      { key: 'from', label: 'From', width: 120 },
      { key: 'about', label: 'About', width: 190 },
      { key: 'text', label: 'Words', cut: true },
      { key: 'due', label: 'Task by', width: 100, gives: 1 },
      { key: 'date', label: 'On', width: 96 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Messages"
    @more="more"
    @cursor="look"
    @open="r => navigateTo(r.link.to)"
  >
    <template #cell-from="{ row }"
      ><b :class="row.unread ? 'font-semibold' : 'font-normal'">{{ row.from.name }}</b></template
    >
    <template #cell-about="{ row }"
      ><NuxtLink class="makes block max-w-[190px] truncate" tabindex="-1" :to="row.link.to">{{
        row.about === 'account' ? row.customer.name : `${row.link.label}, ${row.customer.name}`
      }}</NuxtLink></template
    >
    <template #cell-text="{ row }"
      ><span :class="row.unread ? 'font-semibold' : ''">{{
        row.answers.at(-1)?.text ?? row.text
      }}</span></template
    >
    <template #cell-due="{ row }"
      ><span v-if="row.done" class="text-soft">done</span
      ><span v-else-if="row.due" :class="row.due < session.today ? 'wrong' : ''">{{ dateText(row.due) }}</span
      ><span v-else class="none">·</span></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #empty>{{
      { mine: 'Nobody wrote to you.', tasks: 'Nothing is asked of you.', sent: 'You wrote to nobody yet.' }[
        box
      ]
    }}</template>
  </SheetTable>
  <section
    v-if="current"
    class="max-h-[260px] overflow-auto border-t border-strong bg-paper px-[18px] py-3"
    aria-label="The message"
    data-test="message"
  >
    <p v-for="w in [current, ...current.answers]" :key="w.id" class="mb-1">
      <span class="text-soft">{{ w.from.name }}, {{ dateText(w.date) }}:</span> {{ w.text }}
    </p>
    <form v-if="may" class="mt-1 flex items-baseline gap-4" @submit.prevent="answerIt">
      <input
        ref="field"
        v-model="words"
        class="field min-w-0 flex-1"
        required
        maxlength="1000"
        placeholder="Answer"
        aria-label="Answer"
        autocomplete="off"
      /><button class="plain" :disabled="!words.trim()">Answer <kbd>A</kbd></button
      ><button v-if="current.due" type="button" class="plain" @click="done">
        {{ current.done ? 'Open again' : 'Done' }} <kbd>D</kbd></button
      ><NuxtLink class="plain" :to="current.link.to">{{ current.link.label }} <kbd>L</kbd></NuxtLink>
    </form>
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  </section>
</template>
