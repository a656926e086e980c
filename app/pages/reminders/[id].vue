<script setup lang="ts">
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { RunNotice } from '~~/contract/reminders'
import { useKeys } from '~/composables/keys'
import { useReminderRun } from '~/composables/reminderRun'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { urlOf } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = computed(() => Number(route.params.id))
const { run, list, search, trouble, busy, open, progress, stop, edit, confirm, discard, again, load } =
  useReminderRun(id)
const { rows, answer, loading, trouble: unread, more } = list
const view = ref<'notices' | 'left'>('notices')
const opened = ref<string | null>(null)
const current = ref<RunNotice | null>(null)
const asks = ref<'leaveOut' | 'recipient' | null>(null)
const withdrawing = ref<'notice' | 'run' | null>(null)
const moved = computed(() => /propose the run again/.test(trouble.value))
const isInterest = computed(() => run.value?.kind === 'interest')
const mayWithdraw = computed(
  () => run.value?.state === 'confirmed' && session.can('reminders.run') && withdrawing.value === null,
)
const title = computed(() => `${isInterest.value ? 'Interest' : 'Reminder'} run ${run.value?.id ?? ''}`)
const scopeText = computed(() => {
  const { customer, class: klass, controller, country } = run.value?.scope ?? {}
  return [
    run.value?.policy ? `policy ${run.value.policy}` : 'each customer by its own policy',
    customer && `customer ${customer}`,
    klass && `class ${klass}`,
    controller && `looked after by ${controller}`,
    country && `in ${country}`,
  ]
    .filter(Boolean)
    .join(', ')
})
const STATES = {
  preparing: 'is being worked out',
  proposed: 'proposed, not sent',
  confirmed: 'sent',
  withdrawn: 'withdrawn',
  discarded: 'discarded',
} as const
const levels = computed(() =>
  (run.value?.totals.byLevel ?? [])
    .filter(l => l.level > 0)
    .map(l => `level ${l.level}: ${l.notices}`)
    .join(', '),
)
const letterOf = (n: RunNotice) =>
  n.sent
    ? urlOf(contract.reminders.letter, { id: n.sent.id })
    : urlOf(contract.reminders.preview, { id: id.value }, { key: n.key })
/** The row of the cursor as it was read last. */
const row = computed(() => rows.value.find(r => r.key === current.value?.key) ?? null)

/** Space: brings a notice back at once; leaving it out asks why. */
function toggle(): void {
  if (!row.value) return
  if (row.value.included) asks.value = 'leaveOut'
  else void edit(row.value, { leaveOut: undefined, items: undefined })
}
async function keep(text: string): Promise<void> {
  const what = asks.value
  asks.value = null
  if (!row.value || !what) return
  await edit(row.value, what === 'leaveOut' ? { leaveOut: text.trim() } : { recipient: text.trim() })
}
const canEdit = () => Boolean(open.value && row.value && view.value === 'notices' && !asks.value)
/** Keys that turn a change of the notice on, and off again. */
const SWITCHES = [
  { key: 'd', of: 'oneLower', label: 'One level lower, or as proposed' },
  { key: 'f', of: 'noFee', label: 'No fee, or as proposed' },
  { key: 'i', of: 'noInterest', label: 'No interest, or as proposed' },
] as const
useKeys([
  { key: ' ', label: 'Leave out, or send after all', when: canEdit, run: toggle },
  ...SWITCHES.map(({ key, of, label }) => ({
    key,
    label,
    when: () => canEdit() && !isInterest.value,
    run: () => {
      if (row.value) void edit(row.value, { [of]: row.value.edit[of] ? undefined : true })
    },
  })),
  {
    key: 'a',
    label: 'To another address',
    when: canEdit,
    run: () => {
      asks.value = 'recipient'
    },
  },
  {
    key: 'l',
    label: 'The letter',
    when: () => view.value === 'notices' && Boolean(current.value),
    run: () => {
      window.open(letterOf(current.value!), '_blank')
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
    key: 'w',
    label: 'Withdraw the notice of this row',
    when: () => mayWithdraw.value && Boolean(current.value?.sent && !current.value.sent.withdrawnOn),
    run: () => {
      withdrawing.value = 'notice'
    },
  },
  {
    key: 'W',
    label: 'Withdraw the whole run',
    when: () => mayWithdraw.value,
    run: () => {
      withdrawing.value = 'run'
    },
  },
  {
    key: 'Ctrl+Enter',
    label: 'Confirm the run',
    inFields: true,
    when: () => Boolean(open.value) && !asks.value,
    run: () => void confirm(),
  },
])
</script>

<template>
  <p v-if="!run && trouble" class="wrong p-[18px]">{{ trouble }}</p>
  <template v-if="run">
    <div class="sheet-head">
      <h1>{{ title }}</h1>
      <span class="text-soft"
        >as of {{ dateText(run.asOf) }}, {{ scopeText }}, {{ STATES[run.state]
        }}<template v-if="run.confirmedBy"> by {{ run.confirmedBy }}</template></span
      >
      <span class="ml-auto flex gap-4"
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'notices' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          @click="view = 'notices'"
        >
          Notices {{ run.totals.all }}</button
        ><button
          class="border-b-2 pb-0.5"
          :class="view === 'left' ? 'border-accent font-semibold' : 'border-transparent text-soft'"
          data-test="left-out"
          @click="view = 'left'"
        >
          Left out {{ run.totals.leftOutLines }} <kbd>O</kbd>
        </button></span
      >
    </div>
    <p v-if="run.state === 'preparing'" class="px-[18px] pb-2" role="status">
      The proposal is being worked out: {{ progress || 'waits for its turn' }}.
      <button class="plain" @click="stop">Stop</button>
      <button class="plain ml-3" @click="discard">Discard it</button>
    </p>
    <p v-if="trouble || unread" class="wrong px-[18px] pb-2" role="alert">
      {{ trouble || unread }} <button v-if="moved" class="plain" @click="again">Propose again</button>
    </p>
    <div class="filters">
      <span
        ><label class="label" for="run-search">Customer </label
        ><input id="run-search" v-model="search" class="field w-[180px]" placeholder="name or number"
      /></span>
      <span v-if="open" class="hint"
        ><kbd>Space</kbd> leave out <kbd>D</kbd> level lower <kbd>F</kbd> no fee <kbd>I</kbd> no interest
        <kbd>A</kbd> address <kbd>L</kbd> letter</span
      >
      <span v-else-if="mayWithdraw" class="hint"
        ><kbd>W</kbd> withdraw the notice of a row, or
        <button class="makes" @click="withdrawing = 'run'">the whole run</button></span
      >
      <a
        v-if="run.state === 'confirmed' && run.totals.letters"
        class="plain ml-auto"
        :href="urlOf(contract.reminders.printFile, { id })"
        target="_blank"
        >{{ plural(run.totals.letters, 'letter') }} to print</a
      >
    </div>
    <NoticeTable
      v-if="view === 'notices'"
      :run-id="id"
      :is-interest="isInterest"
      :rows="rows"
      :more="Boolean(answer?.next)"
      :loading="loading || run.state === 'preparing'"
      :opened="opened"
      :open="Boolean(open)"
      @more="more"
      @toggle="
        n => {
          current = n
          toggle()
        }
      "
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
      <template #foot
        >{{ plural(run.totals.notices, 'notice') }} to send<span class="ml-4 font-normal text-soft"
          >{{ levels
          }}<template v-if="run.totals.withdrawn">; {{ run.totals.withdrawn }} withdrawn</template>; in
          {{ run.totals.base }} overdue
          <Figure :amount="run.totals.overdue" :currency="run.totals.base" zero />, fees
          <Figure :amount="run.totals.fees" :currency="run.totals.base" zero />, interest
          <Figure :amount="run.totals.interest" :currency="run.totals.base" zero /></span
      ></template>
      <template #empty
        ><template v-if="run.state === 'preparing'">The proposal is being worked out.</template
        ><template v-else
          >Nobody gets a notice. <button class="plain" @click="view = 'left'">See why</button></template
        ></template
      >
    </NoticeTable>
    <LeftOutTable v-else :run-id="id" :version="run.version" :base="run.totals.base" :search="search" />
    <EditStrip
      v-if="asks && current"
      :ask="asks"
      :name="current.customer.name"
      :value="asks === 'recipient' ? current.recipient : ''"
      @save="keep"
      @close="asks = null"
    />
    <WithdrawStrip
      v-if="withdrawing"
      :run="run"
      :notice="withdrawing === 'notice' ? current : null"
      @close="withdrawing = null"
      @done="
        () => {
          withdrawing = null
          void load()
          void desk.refresh()
        }
      "
    />
    <RunProof
      v-if="run.state === 'proposed'"
      :run="run"
      :may="Boolean(open)"
      :role="session.session?.person.role ?? ''"
      :busy="busy"
      :progress="progress"
      @confirm="confirm"
      @discard="discard"
    />
  </template>
</template>
