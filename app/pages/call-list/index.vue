<script setup lang="ts">
import { computed, ref } from 'vue'
import { LEFT_OUT, type LeftOut } from '~~/core/callList'
import { contract } from '~~/contract'
import type { CallListAnswer, CallListRow } from '~~/contract/callList'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, plural, proseText } from '~/utils/format'

/** Whom to ring now, the best call first: why stands on the row, one key opens the call. */
const desk = useDesk()
const session = useSession()
const of = ref('')
const only = ref<'' | 'followUps'>('')
const { rows, answer, loading, trouble, more, reload } = usePages<CallListRow, CallListAnswer>(
  cursor =>
    call(contract.callList.list, {
      query: { of: of.value || undefined, only: only.value || undefined, limit: 50, cursor },
    }),
  [of, only],
)
const current = ref<CallListRow | null>(null)
const calling = ref<CallListRow | null>(null)
function begin(row: CallListRow | null): void {
  if (row && session.can('chase.keep')) calling.value = row
}
const onCursor = (row: CallListRow) => {
  current.value = row
  void desk.choose(row.customer.number)
}
/** It is written down: the list knows, and the next row takes its place. */
async function done(): Promise<void> {
  const { name } = calling.value!.customer
  calling.value = null
  desk.say({ text: `Call with ${name} logged.` })
  await Promise.all([reload(), desk.refresh()])
}
const total = computed(() => answer.value?.totals)
const whose = computed(() => {
  const list = answer.value?.whose ?? []
  return list.length ? list.map(w => (w.away ? `${w.name}, who is away` : w.name)).join(' and ') : 'everybody'
})
const WORDS: Record<LeftOut, string> = {
  called: 'rung today',
  later: 'to be rung later',
  promised: 'promised',
  disputed: 'disputed',
  paused: 'paused',
  usual: 'no later than they usually are',
}
const leftOut = computed(() =>
  LEFT_OUT.filter(why => answer.value?.leftOut[why]?.count).map(
    why => `${answer.value!.leftOut[why]!.count} ${WORDS[why]}`,
  ),
)
useKeys([
  { key: 'p', label: 'Promises', run: () => navigateTo('/promises') },
  {
    key: 'c',
    label: 'Call: the number, the open items, and what became of it',
    when: () => Boolean(current.value) && session.can('chase.keep'),
    run: () => begin(current.value),
  },
  {
    key: 'f',
    label: 'Only those to be rung again today',
    run: () => {
      only.value = only.value ? '' : 'followUps'
    },
  },
])
const columns = [
  { key: 'name', label: 'Whom to ring', width: 210 },
  { key: 'why', label: 'Why now', cut: true },
  { key: 'overdue', label: `Overdue, ${session.base}`, num: true, width: 96 },
  { key: 'chance', label: 'Chance', num: true, width: 60, gives: 1, title: 'that a contact changes it' },
  {
    key: 'worth',
    label: 'Worth',
    num: true,
    width: 92,
    title: 'money that would otherwise come late × the chance that a contact changes it',
  },
]
</script>

<template>
  <div class="sheet-head">
    <h1>Call list</h1>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="of">of</label
      ><select id="of" v-model="of" class="field" data-test="of">
        <option value="">{{ answer?.whose.length && !of ? whose : 'me' }}</option>
        <option value="all">everybody</option>
        <option v-for="p in answer?.people ?? []" :key="p.email" :value="p.email">
          {{ p.name }}, {{ plural(p.accounts, 'account') }}
        </option>
      </select></span
    >
    <label class="flex min-h-6 items-center gap-1.5"
      ><input
        type="checkbox"
        class="tick"
        :checked="only === 'followUps'"
        @change="only = only ? '' : 'followUps'"
      />
      to be rung again today <kbd>F</kbd></label
    >
    <NuxtLink class="plain ml-auto" to="/promises">Promises <kbd>P</kbd></NuxtLink>
    <span v-if="answer" class="text-soft" data-test="done"
      >today: {{ plural(answer.done.calls, 'call') }}, {{ answer.done.reached }} reached</span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="columns"
    :rows="rows"
    :row-key="r => r.customer.number"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Call list"
    @more="more"
    @cursor="onCursor"
    @open="begin"
  >
    <template #cell-name="{ row }"
      ><span class="name">{{ row.customer.name }}</span
      ><span v-if="row.followUp" class="aside ml-1.5">again</span></template
    >
    <template #cell-why="{ row }"
      ><span :title="proseText(row.why)">{{ proseText(row.why) }}</span></template
    >
    <template #cell-overdue="{ row }"
      ><Figure :amount="row.overdue" :currency="session.base" whole
    /></template>
    <template #cell-chance="{ row }">{{ row.chance }} %</template>
    <template #cell-worth="{ row }"
      ><b class="font-semibold"><Figure :amount="row.worth" :currency="session.base" whole zero /></b
    ></template>
    <template #foot="{ columns: shown }"
      ><tr v-if="total">
        <td v-for="(c, n) in shown ?? columns" :key="c.key" :class="c.num ? 'num' : c.cut ? 'cut' : ''">
          <template v-if="n === 0">{{ plural(total.count, 'account') }}</template><Figure
            v-else-if="c.key === 'overdue'"
            :amount="total.overdue"
            :currency="session.base"
            whole
            zero
          /><Figure
            v-else-if="c.key === 'worth'"
            :amount="total.worth"
            :currency="session.base"
            whole
            zero
          /><span v-else-if="c.key === 'why' && leftOut.length" class="font-normal text-soft"
            >left out: {{ leftOut.join(', ') }}</span
          >
        </td>
      </tr></template
    >
    <template #empty
      ><template v-if="only">Nobody is to be rung again today.</template
      ><template v-else
        >Nobody is worth a call now: what is overdue comes by itself, is promised, or was talked of.</template
      ></template
    >
  </SheetTable>
  <CallPanel v-if="calling" :row="calling" @done="done" @close="calling = null" />
  <section
    v-else-if="current"
    class="flex items-baseline gap-4 border-t border-strong bg-paper px-[18px] py-2.5"
    aria-label="The row"
  >
    <p class="min-w-0 flex-1" data-test="why">
      {{ proseText(current.why) }}.
      <span v-if="current.last?.text" class="text-soft"
        >“{{ current.last.text }}” {{ current.last.by }}, {{ dateText(current.last.on) }}</span
      >
    </p>
    <button v-if="session.can('chase.keep')" class="go" data-test="begin" @click="begin(current)">
      Call <span class="font-normal opacity-70">C</span>
    </button>
  </section>
</template>
