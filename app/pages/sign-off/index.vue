<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { WaitingDetail, WaitingRow } from '~~/contract/signOff'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural, proseText, timeText } from '~/utils/format'

/** What waits for a second person: approve and go to the next, one key each. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const state = ref<'waiting' | 'own' | 'decided'>('waiting')
const { rows, answer, loading, trouble, reload } = usePages<
  WaitingRow,
  { items: WaitingRow[]; waiting: number; next: null }
>(
  async () => ({ ...(await call(contract.signOff.list, { query: { state: state.value } })), next: null }),
  [state],
)
const chosen = ref<WaitingRow | null>(null)
const read = ref<WaitingDetail | null>(null)
/** What the chosen one would do: nobody signs it by what another would. */
const detail = computed(() => (read.value && read.value.id === chosen.value?.id ? read.value : null))
const refused = ref('')
const saying = ref<'' | 'decline' | 'send back' | 'comment'>('')
const words = ref('')
let asked = 0
async function look(row: WaitingRow | null): Promise<void> {
  chosen.value = row
  saying.value = ''
  refused.value = ''
  if (!row) {
    asked++
    read.value = null
    return
  }
  if (row.customer) void desk.choose(row.customer.number)
  await readDetail(row.id)
}
async function readDetail(id: number): Promise<void> {
  const mine = ++asked
  try {
    const found = await call(contract.signOff.detail, { params: { id } })
    if (mine === asked) read.value = found
  } catch (error) {
    // What was refused before is told first.
    if (mine === asked) refused.value ||= problemText(error)
  }
}
watch(rows, list => {
  const wanted = Number(route.query.id)
  const own = list.find(r => r.id === (wanted || chosen.value?.id)) ?? list[0] ?? null
  if (own?.id !== chosen.value?.id || own?.state !== chosen.value?.state) void look(own)
})
async function act(what: () => Promise<unknown>, said: string): Promise<void> {
  try {
    await what()
    desk.say({ text: said })
    words.value = ''
    saying.value = ''
    await Promise.all([reload(), desk.refresh()])
  } catch (error) {
    refused.value = problemText(error)
    // What it would do now may have changed.
    if (chosen.value) await readDetail(chosen.value.id)
  }
}
const params = () => ({ id: chosen.value!.id })
const sign = () =>
  act(
    () => call(contract.signOff.sign, { params: params() }),
    `Signed: ${chosen.value!.label.toLowerCase()} of ${chosen.value!.about}.`,
  )
const withdraw = () => act(() => call(contract.signOff.withdraw, { params: params() }), 'Taken back.')
const askAgain = () =>
  act(() => call(contract.signOff.askAgain, { params: params(), body: { set: {} } }), 'Asked for again.')
function send(): Promise<void> {
  const body = { reason: words.value }
  if (saying.value === 'decline')
    return act(() => call(contract.signOff.decline, { params: params(), body }), 'Declined.')
  if (saying.value === 'send back')
    return act(() => call(contract.signOff.sendBack, { params: params(), body }), 'Sent back to be changed.')
  return act(
    () => call(contract.signOff.comment, { params: params(), body: { text: words.value } }),
    'Said so.',
  ).then(() => look(chosen.value))
}
const maySign = computed(() =>
  Boolean(chosen.value?.maySign && detail.value && !detail.value.refusals.length),
)
const off = computed(() => {
  if (!chosen.value || chosen.value.state !== 'waiting') return ''
  return (
    chosen.value.whyNot ||
    (detail.value?.refusals[0] ? 'the books have moved on: decline it or send it back' : '')
  )
})
useKeys([
  { key: 's', label: 'Sign it, then the next', when: () => maySign.value, run: () => void sign() },
  {
    key: 'd',
    label: 'Decline, with a reason',
    when: () => Boolean(chosen.value?.maySign),
    run: () => {
      saying.value = 'decline'
    },
  },
  {
    key: 'r',
    label: 'Send back to be changed',
    when: () => Boolean(chosen.value?.maySign),
    run: () => {
      saying.value = 'send back'
    },
  },
  {
    key: 'c',
    label: 'Say something about it',
    when: () => Boolean(chosen.value),
    run: () => {
      saying.value = 'comment'
    },
  },
])
const columns = [
  { key: 'what', label: 'What', width: 130 },
  { key: 'about', label: 'About', cut: true },
  { key: 'change', label: 'Change', cut: true },
  { key: 'by', label: 'Asked by', width: 120, gives: 2 },
  { key: 'at', label: 'On', width: 96, gives: 1 },
]
/** What is short stays on one line; a sentence may break. */
const SHORT = 26
const fits = (text: string) => (text.length <= SHORT ? 'whitespace-nowrap' : '')
const changeText = (row: WaitingRow) =>
  row.changes.map(c => `${c.field}: ${c.before || 'none'} → ${c.after || 'none'}`).join('; ')
const STATES = { waiting: 'Waiting', own: 'Asked by you', decided: 'Decided' } as const
</script>

<template>
  <PartsHead v-model="state" title="Sign-off" :parts="STATES">
    <span v-if="answer" class="hint ml-auto">{{ plural(answer.waiting, 'request') }} waiting</span>
  </PartsHead>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="columns"
    :rows="rows"
    :row-key="r => r.id"
    :loading="loading"
    label="Requests"
    @cursor="look"
    @open="r => r.customer && navigateTo(`/accounts/${encodeURIComponent(r.customer.number)}/master`)"
  >
    <template #cell-what="{ row }"
      >{{ row.label }}<span v-if="row.state !== 'waiting'" class="aside ml-1">{{ row.state }}</span></template
    >
    <template #cell-about="{ row }"
      ><span class="name">{{ row.customer?.name ?? row.about }}</span></template
    >
    <template #cell-change="{ row }">{{ proseText(changeText(row)) }}</template>
    <template #cell-by="{ row }">{{ row.own ? 'you' : row.by }}</template>
    <template #cell-at="{ row }">{{ dateText(row.date) }}</template>
    <template #empty>{{
      {
        waiting: 'Nothing waits for a second person.',
        own: 'You have asked for nothing that waits.',
        decided: 'Nothing was decided yet.',
      }[state]
    }}</template>
  </SheetTable>
  <section
    v-if="chosen"
    class="grid grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)_170px] border-t border-strong bg-paper"
    aria-label="The request"
    data-test="request"
  >
    <div class="max-h-[260px] overflow-auto px-[18px] py-3">
      <h6 class="part-head mb-1">{{ chosen.label }}, {{ chosen.customer?.name ?? chosen.about }}</h6>
      <table class="w-full">
        <tbody>
          <tr v-for="c in detail?.now.length ? detail.now : chosen.changes" :key="c.field">
            <td class="whitespace-nowrap pr-3 align-top text-soft">{{ c.field }}</td>
            <td class="pr-2 align-top" :class="fits(c.before)">{{ proseText(c.before) || 'none' }}</td>
            <td class="align-top" :class="fits(c.after)">
              <span class="text-faint">→ </span
              ><b class="font-semibold">{{ proseText(c.after) || 'none' }}</b>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="detail?.why" class="mt-1.5">“{{ detail.why }}”</p>
      <p class="hint mt-1">
        asked for by {{ chosen.own ? 'you' : chosen.by }}, {{ dateText(chosen.date)
        }}<template v-if="chosen.decidedBy"
          >; {{ chosen.state }} by {{ chosen.decidedBy
          }}<template v-if="chosen.reason">: {{ chosen.reason }}</template></template
        >
      </p>
      <template v-if="detail?.proof"
        ><table class="mt-2">
          <tbody>
            <tr v-for="(l, i) in detail.proof.lines" :key="i">
              <td class="pr-3">{{ l.account }} {{ l.name }}</td>
              <td class="num"><Figure :amount="l.baseAmount" :currency="detail.proof.base" /></td>
            </tr>
          </tbody></table
      ></template>
    </div>
    <div class="max-h-[260px] overflow-auto border-l border-rule px-[18px] py-3">
      <template v-if="detail?.refusals.length"
        ><h6 class="part-head mb-1">Would be refused now</h6>
        <p v-for="r in detail.refusals" :key="r.message" class="wrong">
          {{ proseText(r.message) }}<span class="text-soft">: {{ r.satisfy }}</span>
        </p></template
      >
      <h6 class="part-head mb-1" :class="detail?.refusals.length ? 'mt-2' : ''">Said of it</h6>
      <p v-for="(s, i) in detail?.said ?? []" :key="i">
        <span class="text-soft">{{ s.by }}, {{ timeText(s.at) }}:</span> {{ s.text }}
      </p>
      <p v-if="!detail?.said.length" class="hint">Nothing yet.</p>
      <form v-if="saying" class="mt-2 flex items-baseline gap-3" @submit.prevent="send">
        <input
          v-model="words"
          v-focus
          class="field min-w-0 flex-1"
          :placeholder="saying === 'comment' ? 'What you want to say' : 'Why'"
          :aria-label="saying === 'comment' ? 'Comment' : 'Reason'"
          required
          maxlength="200"
          @keydown.escape.stop="saying = ''"
        /><button class="plain">
          {{ { decline: 'Decline', 'send back': 'Send back', comment: 'Say it' }[saying] }}
        </button>
      </form>
      <p v-if="refused" class="wrong mt-1" role="alert">{{ refused }}</p>
    </div>
    <div class="flex flex-col gap-1.5 border-l border-rule px-[18px] py-3">
      <template v-if="chosen.state === 'waiting'">
        <button class="go" :disabled="!maySign" data-test="sign" @click="sign">
          Sign <span class="font-normal opacity-70">S</span>
        </button>
        <span v-if="off" class="text-soft">{{ off.charAt(0).toUpperCase() + off.slice(1) }}</span>
        <template v-if="chosen.maySign"
          ><button class="plain text-left" @click="saying = 'send back'">Send back <kbd>R</kbd></button
          ><button class="plain text-left" @click="saying = 'decline'">Decline <kbd>D</kbd></button></template
        >
      </template>
      <button v-if="chosen.own && chosen.state === 'returned'" class="go" @click="askAgain">Ask again</button>
      <NuxtLink
        v-if="chosen.own && chosen.state === 'returned' && chosen.customer"
        class="plain"
        :to="`/accounts/${encodeURIComponent(chosen.customer.number)}/master`"
        >Ask for something else</NuxtLink
      >
      <button
        v-if="chosen.own && ['waiting', 'returned'].includes(chosen.state)"
        class="plain text-left"
        @click="withdraw"
      >
        Take it back
      </button>
      <button class="plain text-left" @click="saying = 'comment'">Comment <kbd>C</kbd></button>
    </div>
  </section>
  <DeputyStrip v-if="session.can('signOff.sign')" />
</template>
