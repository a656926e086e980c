<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ProposedNotice, Run } from '~~/contract/reminders'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { dateText, plural, proseText } from '~/utils/format'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = computed(() => Number(route.params.id))
const run = ref<Run | null>(null)
const excluded = ref<Set<string>>(new Set())
const view = ref<'notices' | 'left'>('notices')
const trouble = ref('')
const moved = ref(false)
const busy = ref(false)
const opened = ref<string | null>(null)
const current = ref<ProposedNotice | null>(null)
async function load(): Promise<void> {
  try {
    run.value = await call(contract.reminders.run, { params: { id: id.value } })
    excluded.value = new Set(run.value.notices.filter(n => !n.included).map(n => n.key))
    if (!run.value.notices.length) view.value = 'left'
  } catch (error) {
    trouble.value = problemText(error)
  }
}
watch(id, load, { immediate: true })
const open = computed(() => run.value?.state === 'proposed' && session.can('reminders.run'))
const chosen = computed(() => run.value?.notices.filter(n => !excluded.value.has(n.key)) ?? [])
const byCurrency = computed(() => {
  const sums = new Map<string, { currency: string; n: number; total: number; fee: number }>()
  for (const n of chosen.value) {
    const s = sums.get(n.currency) ?? { currency: n.currency, n: 0, total: 0, fee: 0 }
    sums.set(n.currency, { ...s, n: s.n + 1, total: s.total + n.total, fee: s.fee + n.fee })
  }
  return [...sums.values()].sort((a, b) => b.n - a.n)
})
const levels = computed(() =>
  [1, 2, 3, 4, 5, 6].map(l => ({ l, n: chosen.value.filter(n => n.level === l).length })).filter(x => x.n),
)
const letters = computed(() => ({
  email: chosen.value.filter(n => n.channel === 'email').length,
  print: chosen.value.filter(n => n.channel === 'print').length,
}))
const sentOf = (n: ProposedNotice) => run.value?.sent.find(s => s.key === n.key)
function toggle(n: ProposedNotice): void {
  const next = new Set(excluded.value)
  if (!next.delete(n.key)) next.add(n.key)
  excluded.value = next
}
async function confirm(): Promise<void> {
  if (!open.value || busy.value || !chosen.value.length) return
  busy.value = true
  try {
    run.value = await call(contract.reminders.confirm, {
      params: { id: id.value },
      body: { version: run.value!.version, exclude: [...excluded.value] },
    })
    trouble.value = ''
    desk.say({
      text: `${plural(run.value.sent.length, 'notice')} out.`,
      to: '/outbox',
      action: 'See the outbox',
    })
    await desk.refresh()
  } catch (error) {
    trouble.value = problemText(error)
    moved.value = /propose the run again/.test(trouble.value)
  } finally {
    busy.value = false
  }
}
async function again(): Promise<void> {
  const fresh = await call(contract.reminders.propose, {
    body: { asOf: run.value!.asOf, policy: run.value!.policy },
  })
  await call(contract.reminders.discard, { params: { id: id.value } })
  moved.value = false
  trouble.value = ''
  await navigateTo(`/reminders/${fresh.id}`)
}
async function discard(): Promise<void> {
  try {
    await call(contract.reminders.discard, { params: { id: id.value } })
    desk.say({ text: `Run ${id.value} discarded; nothing was sent.` })
    await navigateTo('/reminders')
  } catch (error) {
    trouble.value = problemText(error)
  }
}
const letterUrl = (n: ProposedNotice) => {
  const s = sentOf(n)
  return s
    ? urlOf(contract.reminders.letter, { id: s.id })
    : urlOf(contract.reminders.preview, { id: id.value }, { key: n.key })
}
useKeys([
  {
    key: ' ',
    label: 'Send or leave out',
    when: () => open.value && view.value === 'notices',
    run: () => {
      if (current.value) toggle(current.value)
    },
  },
  {
    key: 'l',
    label: 'The letter',
    when: () => view.value === 'notices',
    run: () => {
      if (current.value) window.open(letterUrl(current.value), '_blank')
    },
  },
  {
    key: 'o',
    label: 'What is left out, and why',
    run: () => {
      view.value = view.value === 'left' ? 'notices' : 'left'
    },
  },
  {
    key: 'Ctrl+Enter',
    label: 'Confirm the run',
    inFields: true,
    when: () => Boolean(open.value),
    run: () => {
      void confirm()
    },
  },
])
</script>

<template>
  <p v-if="!run && trouble" class="wrong p-[18px]">{{ trouble }}</p>
  <template v-if="run">
    <div class="sheet-head">
      <h1>Reminder run {{ run.id }}</h1>
      <span class="text-soft"
        >as of {{ dateText(run.asOf) }}, policy {{ run.policy }},
        {{
          { proposed: 'proposed, not sent', confirmed: `sent by ${run.confirmedBy}`, discarded: 'discarded' }[
            run.state
          ]
        }}</span
      >
      <span class="ml-auto flex gap-4"
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'notices' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          @click="view = 'notices'"
        >
          Notices {{ run.notices.length }}</button
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'left' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          data-test="left-out"
          @click="view = 'left'"
        >
          Left out {{ run.leftOut.length }} <kbd>O</kbd>
        </button></span
      >
    </div>
    <p v-if="trouble" class="wrong px-[18px] pb-2" role="alert">
      {{ trouble }} <button v-if="moved" class="plain" @click="again">Propose again</button>
    </p>
    <SheetTable
      v-if="view === 'notices'"
      key="n"
      :columns="[
        { key: 'send', label: 'Send', width: 44 },
        { key: 'customer', label: 'Customer', cut: true },
        { key: 'level', label: 'Level', num: true, width: 50 },
        { key: 'items', label: 'Items', num: true, width: 48 },
        { key: 'total', label: 'Overdue', num: true, width: 130 },
        { key: 'fee', label: 'Fee', num: true, width: 76 },
        { key: 'channel', label: 'By', width: 56 },
        { key: 'letter', label: 'Letter', width: 72 },
      ]"
      :rows="run.notices"
      :row-key="n => n.key"
      :loading="false"
      label="Notices"
      :opened="opened"
      :row-class="n => (excluded.has(n.key) ? 'text-faint' : '')"
      @cursor="
        n => {
          current = n
          desk.choose(n.customer.number)
        }
      "
      @open="
        n => {
          opened = opened === n.key ? null : n.key
        }
      "
    >
      <template #cell-send="{ row }"
        ><input
          type="checkbox"
          class="tick"
          tabindex="-1"
          :disabled="!open"
          :checked="!excluded.has(row.key)"
          :aria-label="`Send to ${row.customer.name}`"
          @click.stop
          @change="toggle(row)"
      /></template>
      <template #cell-customer="{ row }"
        ><span class="name">{{ row.customer.name }}</span
        ><span class="aside ml-1.5">{{ row.why }}</span></template
      >
      <template #cell-level="{ row }"
        ><b class="font-semibold">{{ row.level }}</b></template
      >
      <template #cell-items="{ row }">{{ row.items.length }}</template>
      <template #cell-total="{ row }"
        ><Figure :amount="row.total" :currency="row.currency" /><span class="aside ml-1">{{
          row.currency
        }}</span></template
      >
      <template #cell-fee="{ row }"><Figure :amount="row.fee" :currency="row.currency" /></template>
      <template #cell-channel="{ row }">{{ row.channel === 'email' ? 'e-mail' : 'print' }}</template>
      <template #cell-letter="{ row }"
        ><a class="makes text-accent" tabindex="-1" :href="letterUrl(row)" target="_blank" @click.stop>{{
          sentOf(row)?.number ?? 'preview'
        }}</a></template
      >
      <template #under="{ row }"
        ><p class="mb-1 text-soft">
          {{ row.why.charAt(0).toUpperCase() + row.why.slice(1) }}.
          {{ row.recipient ? `To ${row.recipient}` : 'No e-mail address: to print' }}, payable by
          {{ dateText(row.deadline) }}.
        </p>
        <table class="ml-2">
          <tbody>
            <tr v-for="i in row.items" :key="i.id">
              <td class="!h-6 !border-0">{{ i.number }}</td>
              <td class="!h-6 !border-0">due {{ dateText(i.dueDate) }}</td>
              <td class="num !h-6 !border-0">{{ i.daysLate }} days</td>
              <td class="!h-6 !border-0">{{ i.level ? `level ${i.level}` : 'earlier fee' }}</td>
              <td class="num !h-6 !border-0"><Figure :amount="i.open" :currency="row.currency" /></td>
            </tr>
          </tbody></table
      ></template>
      <template #foot
        ><tr>
          <td colspan="8">
            {{ plural(chosen.length, 'notice') }} chosen<span class="ml-4 font-normal text-soft"
              >{{ levels.map(x => `level ${x.l}: ${x.n}`).join(', ') }},
              {{ plural(letters.email, 'e-mail') }}, {{ plural(letters.print, 'letter') }} to print</span
            >
          </td>
        </tr></template
      >
      <template #empty
        >No customer has reached a level.
        <button class="plain" @click="view = 'left'">See why</button></template
      >
    </SheetTable>
    <SheetTable
      v-else
      key="l"
      :columns="[
        { key: 'customer', label: 'Customer', cut: true, width: 240 },
        { key: 'item', label: 'Item', width: 110 },
        { key: 'reason', label: 'Why it is left out', cut: true },
        { key: 'open', label: 'Overdue', num: true, width: 140 },
      ]"
      :rows="run.leftOut"
      :row-key="l => `${l.customer.number} ${l.currency} ${l.item}`"
      :loading="false"
      label="Left out"
      @cursor="l => desk.choose(l.customer.number)"
      @open="l => navigateTo(`/accounts/${l.customer.number}`)"
    >
      <template #cell-customer="{ row }"
        ><span class="name">{{ row.customer.name }}</span></template
      ><template #cell-item="{ row }">{{ row.item ?? 'all' }}</template
      ><template #cell-reason="{ row }"
        ><span :title="proseText(row.reason)">{{ proseText(row.reason) }}</span></template
      >
      <template #cell-open="{ row }"
        ><Figure :amount="row.open" :currency="row.currency" /><span class="aside ml-1">{{
          row.currency
        }}</span></template
      >
      <template #foot
        ><tr>
          <td colspan="3">{{ plural(run.leftOut.length, 'line') }}, in {{ run.totals.base }}</td>
          <td class="num"><Figure :amount="run.totals.leftOut" :currency="run.totals.base" zero /></td></tr
      ></template>
      <template #empty>Nothing overdue is left out.</template>
    </SheetTable>
    <section
      v-if="run.state === 'proposed'"
      class="grid flex-none grid-cols-[minmax(0,1fr)_auto] border-t-2 border-ink"
      aria-label="Proof"
    >
      <div class="px-[18px] py-2.5">
        <h6 class="part-head mb-1">Proof</h6>
        <table class="w-full max-w-[600px]">
          <tbody>
            <tr class="text-soft">
              <td>Currency</td>
              <td class="num">Notices</td>
              <td class="num">Overdue</td>
              <td class="num">Fees, 1100 to 4810</td>
              <td class="num">Claimed</td>
            </tr>
            <tr v-for="s in byCurrency" :key="s.currency">
              <td>{{ s.currency }}</td>
              <td class="num">{{ s.n }}</td>
              <td class="num"><Figure :amount="s.total" :currency="s.currency" /></td>
              <td class="num"><Figure :amount="s.fee" :currency="s.currency" /></td>
              <td class="num font-semibold"><Figure :amount="s.total + s.fee" :currency="s.currency" /></td>
            </tr>
          </tbody>
        </table>
        <p class="mt-1 text-soft">
          {{ byCurrency.some(s => s.fee) ? 'Fees become open items.' : 'No fees: nothing is posted.' }} Level
          and date go onto
          {{
            plural(
              chosen.reduce((a, n) => a + n.items.filter(i => i.level).length, 0),
              'item',
            )
          }}.
        </p>
      </div>
      <div v-if="open" class="flex flex-col justify-center gap-1.5 border-l border-rule px-[18px] py-2.5">
        <button class="go" :disabled="busy || !chosen.length" data-test="confirm" @click="confirm">
          Confirm and send <span class="font-normal opacity-70">Ctrl ↵</span></button
        ><button class="hint makes text-left" @click="discard">Discard the proposal</button>
      </div>
      <p v-else class="max-w-[200px] px-[18px] py-2.5 text-soft">
        A {{ session.session?.person.role }} may not confirm reminders.
      </p>
    </section>
  </template>
</template>
