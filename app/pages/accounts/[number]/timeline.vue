<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import { TIMELINE_KINDS, type TimelineEntry } from '~~/contract/accounts'
import type { Attachment } from '~~/contract/attachments'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, proseText } from '~/utils/format'

/** All that happened on an account, in one line of time; and the files that lie on it. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const number = computed(() => String(route.params.number))
watch(number, n => desk.choose(n), { immediate: true })
const kind = ref<(typeof TIMELINE_KINDS)[number] | ''>('')
const search = ref('')
const { rows, answer, loading, trouble, more, reload } = usePages<
  TimelineEntry,
  { items: TimelineEntry[]; next: string | null }
>(
  cursor =>
    call(contract.accounts.timeline, {
      params: { number: number.value },
      query: { kind: kind.value || undefined, search: search.value || undefined, limit: 60, cursor },
    }),
  [number, kind, search],
  150,
)
const WORDS: Record<(typeof TIMELINE_KINDS)[number], string> = {
  refund: 'Refund',
  collection: 'Direct debit',
  mandate: 'Mandate',
  receipt: 'Receipt',
  reminder: 'Reminder',
  call: 'Call',
  promise: 'Promise',
  dispute: 'Dispute',
  letter: 'Letter',
  message: 'Message',
  note: 'Note',
  mail: 'Mail',
  file: 'File',
  hold: 'Hold',
  change: 'Change',
}
const current = ref<TimelineEntry | null>(null)
const { trouble: refused, guard } = useGuard()
function open(row: TimelineEntry): void {
  if (!row.to) return
  if (row.to.startsWith('/api/')) window.open(row.to, '_blank')
  else void navigateTo(row.to)
}
const picker = ref<HTMLInputElement | null>(null)
async function put(file: File | undefined): Promise<void> {
  if (!file) return
  try {
    const kept = (await call(contract.attachments.add, {
      params: { number: number.value },
      query: { name: file.name },
      body: file,
    })) as Attachment
    refused.value = ''
    desk.say({ text: `${kept.name} lies on the account now.` })
    await reload()
  } catch (error) {
    refused.value = problemText(error)
  } finally {
    if (picker.value) picker.value.value = ''
  }
}
const isPinned = computed(() => current.value?.kind === 'note' && current.value.state === 'pinned')
async function pin(): Promise<void> {
  const { id } = current.value!
  await guard(
    () =>
      call(contract.accounts.pin, {
        params: { number: number.value, id },
        body: { pinned: !isPinned.value },
      }),
    isPinned.value ? 'The note is not pinned any more.' : 'Pinned: the Card shows it first.',
  )
  await Promise.all([reload(), desk.refresh()])
}
const mayPin = computed(() => current.value?.kind === 'note' && session.can('notes.write'))
useKeys([
  {
    key: 'o',
    label: 'Items of the account',
    run: () => navigateTo(`/accounts/${encodeURIComponent(number.value)}`),
  },
  { key: 'p', label: 'Pin the note, or let it go', when: () => mayPin.value, run: () => void pin() },
  {
    key: 'u',
    label: 'Put a file on the account',
    when: () => session.can('notes.write'),
    run: () => picker.value?.click(),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ desk.card?.number === number ? desk.card.name : number }}</h1>
    <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}`">Items <kbd>O</kbd></NuxtLink>
    <span class="border-b-2 border-accent pb-0.5 font-semibold">Time line</span>
    <span class="ml-auto flex gap-4"
      ><template v-if="session.can('notes.write')"
        ><button class="plain" @click="picker?.click()">A file <kbd>U</kbd></button
        ><input
          ref="picker"
          type="file"
          accept=".pdf,.png,.jpg,.jpeg,.eml,application/pdf,image/png,image/jpeg,message/rfc822"
          class="sr-only"
          tabindex="-1"
          aria-label="File to put on the account"
          @change="put(($event.target as HTMLInputElement).files?.[0])" /></template
    ></span>
  </div>
  <div class="filters">
    <FindField
      v-model="search"
      class="w-[180px]"
      placeholder="Words, number, name"
      label="Find in the time line"
    />
    <span
      ><label class="label" for="kind">Only </label
      ><select id="kind" v-model="kind" class="field">
        <option value="">everything</option>
        <option v-for="k in TIMELINE_KINDS" :key="k" :value="k">{{ WORDS[k].toLowerCase() }}s</option>
      </select></span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px]" role="alert">{{ trouble || refused }}</p>
  <SheetTable
    :columns="[
      { key: 'date', label: 'Date', width: 96 },
      { key: 'kind', label: 'What', width: 80 },
      { key: 'title', label: '', width: 230 },
      { key: 'text', label: 'Words', cut: true },
      { key: 'by', label: 'By', width: 96, gives: 1 },
      { key: 'state', label: 'State', width: 110, gives: 2 },
    ]"
    :rows="rows"
    :row-key="r => `${r.kind} ${r.id}`"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Time line"
    @more="more"
    @cursor="
      r => {
        current = r
      }
    "
    @open="open"
  >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-kind="{ row }"
      ><span class="text-soft">{{ WORDS[row.kind] }}</span></template
    >
    <template #cell-title="{ row }"
      ><a
        v-if="row.to.startsWith('/api/')"
        class="makes block max-w-[230px] truncate font-semibold"
        tabindex="-1"
        target="_blank"
        :href="row.to"
        >{{ proseText(row.title) }}</a
      ><NuxtLink
        v-else-if="row.to"
        class="makes block max-w-[230px] truncate font-semibold"
        tabindex="-1"
        :to="row.to"
        >{{ proseText(row.title) }}</NuxtLink
      ><span v-else class="block max-w-[230px] truncate font-semibold">{{
        proseText(row.title)
      }}</span></template
    >
    <template #cell-text="{ row }"
      ><span :title="row.text">{{ proseText(row.text) }}</span></template
    >
    <template #cell-by="{ row }">{{ row.by.split(' ')[0] }}</template>
    <template #cell-state="{ row }"
      ><span :class="row.state === 'broken' ? 'wrong' : 'text-soft'">{{
        proseText(row.state)
      }}</span></template
    >
    <template #empty>{{
      search || kind ? 'Nothing of that kind happened.' : 'Nothing happened on this account yet.'
    }}</template>
  </SheetTable>
  <p v-if="mayPin" class="border-t border-strong bg-paper px-[18px] py-2">
    <button class="plain" @click="pin">
      {{ isPinned ? 'Let the note go' : 'Pin the note' }} <kbd>P</kbd>
    </button>
  </p>
</template>
