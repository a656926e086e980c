<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { computed, nextTick, reactive, ref, shallowRef, watch } from 'vue'
import { contract } from '~~/contract'
import type { BankLine, BankLineDetail, LineProposal } from '~~/contract/banking/lines'
import { useStatementFiles } from '~/composables/banking/statementFiles'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural, settledText } from '~/utils/format'

/**
 * The bank: statements come in, clear lines are taken, the rest is worked one by one with a proposal, its
 * alternatives and its Proof.
 */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const STATES = {
  open: 'to work',
  clear: 'clear, not taken yet',
  settled: 'settled',
  automatic: 'taken automatically',
  all: 'all',
} as const
type State = keyof typeof STATES
const query = reactive({
  state: (Object.keys(STATES).find(s => s === route.query.state) ?? 'open') as State,
  account: route.query.account ? Number(route.query.account) : (undefined as number | undefined),
  search: String(route.query.find ?? ''),
})
const narrowed = () => ({ state: query.state, account: query.account, search: query.search || undefined })
const { rows, answer, loading, trouble, more, reload } = usePages<BankLine, Awaited<ReturnType<typeof read>>>(
  read,
  [() => ({ ...query })],
  120,
)
function read(cursor: string | undefined) {
  return call(contract.banking.lines, { query: { ...narrowed(), limit: 100, cursor, counted: '0' } })
}
/** Counts of all lines come after the page: at hundreds of thousands they take longer. */
const counts = shallowRef<Pick<Awaited<ReturnType<typeof read>>, 'count' | 'totals'> | null>(null)
watch(answer, async now => {
  if (now && rows.value.length > 100) return
  try {
    const found = await call(contract.banking.lines, { query: { ...narrowed(), limit: 1 } })
    if (answer.value === now) counts.value = found
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const current = shallowRef<BankLine | null>(null)
const detail = shallowRef<BankLineDetail | null>(null)
const chosen = ref(0)
const undoing = ref(false)
const reason = ref('')
const picker = ref<HTMLInputElement | null>(null)
const zone = ref<HTMLElement | null>(null)
const { isOverDropZone } = useDropZone(zone, {
  onDrop: files => {
    if (files?.[0]) void takeFile(files[0])
  },
})
const { accounts, waiting, aside, busy, said, faults, taken, job, head, tryAgain, takeInbox, takeFile } =
  useStatementFiles(() => query.account, reload)
const canPost = computed(() => session.can('receipts.post'))

const openLines = computed(() => accounts.value.reduce((a, x) => a + x.openLines, 0))

let asked = 0
watch(current, async line => {
  chosen.value = 0
  undoing.value = false
  reason.value = ''
  detail.value = null
  const mine = ++asked
  if (!line) return
  await new Promise(resolve => setTimeout(resolve, 90))
  if (mine !== asked) return
  try {
    const one = await call(contract.banking.line, { params: { id: line.id } })
    if (mine !== asked) return
    detail.value = one
    const customer = one.proposal?.customer?.number ?? one.match?.receipts[0]?.customer.number
    if (customer) await desk.choose(customer)
  } catch (error) {
    if (mine === asked) said.value = problemText(error)
  }
})
watch(rows, list => {
  if (!list.length) current.value = null
})
const proposals = computed<LineProposal[]>(() =>
  detail.value?.proposal ? [detail.value.proposal, ...detail.value.alternatives] : [],
)
function pick(n: number): void {
  if (n >= proposals.value.length) return
  chosen.value = n
  const customer = proposals.value[n]!.customer
  if (customer) void desk.choose(customer.number)
}
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(() => {
  const d = detail.value
  if (!d || !canPost.value) return null
  if (d.state === 'open')
    return proposals.value.length
      ? call(contract.banking.preview, {
          params: { id: d.id },
          body: { version: d.version, proposed: true, action: proposals.value[chosen.value]!.action },
        })
      : null
  return undoing.value
    ? call(contract.banking.previewUndo, {
        params: { id: d.id },
        body: { reason: reason.value.trim() || 'unmatched' },
      })
    : null
}, [detail, chosen, undoing])
const off = computed(() => {
  const d = detail.value
  if (!d) return 'choose a line'
  if (d.state === 'settled')
    return !undoing.value
      ? 'settled: unmatch it with U'
      : reason.value.trim()
        ? proofTrouble.value
        : 'say why'
  if (!proposals.value.length) return 'nothing is proposed: open the line with ↵ and say what it is'
  if (d.tie && chosen.value === 0 && !picked.value) return 'two answers are equally good: choose one with P'
  return proofTrouble.value
})
const picked = ref(false)
watch(current, () => {
  picked.value = false
})
function choose(n: number): void {
  picked.value = true
  pick(n)
}

async function accept(): Promise<void> {
  const d = detail.value
  if (!d || off.value || busy.value || !ready.value) return
  busy.value = true
  try {
    if (d.state === 'open') {
      const done = await call(contract.banking.accept, {
        params: { id: d.id },
        body: { version: d.version, proposed: true, action: proposals.value[chosen.value]!.action },
        key: `line-${d.id}-${d.version}`,
      })
      desk.say({
        text: settledText(done),
        to: `/banking?state=settled&find=${encodeURIComponent(d.bankReference)}`,
        action: 'Unmatch',
      })
    } else {
      await call(contract.banking.undo, {
        params: { id: d.id },
        body: { version: d.version, reason: reason.value.trim() },
      })
      desk.say({
        text: `${amountText(d.amount, d.currency, true)} is open again.`,
        to: '/banking',
        action: 'Work it',
      })
    }
    said.value = ''
  } catch (error) {
    said.value = problemText(error)
  }
  await readAgain()
}
/** Until the list stands again the line in sight is the old one: no key takes it twice. */
async function readAgain(): Promise<void> {
  try {
    await Promise.all([reload(), head(), desk.refresh()])
    await nextTick()
  } finally {
    busy.value = false
  }
}
async function takeClear(): Promise<void> {
  busy.value = true
  try {
    const { applied, held } = await call(contract.banking.acceptClear)
    desk.say({
      text: `${plural(applied, 'clear line')} taken${held ? `, ${held} held` : ''}.`,
      to: '/banking?state=settled',
      action: 'Look at them',
    })
  } catch (error) {
    said.value = problemText(error)
  }
  await readAgain()
}
const clearCount = computed(() => rows.value.filter(r => r.clear).length)
const sure = (l: BankLine) =>
  l.state === 'settled'
    ? l.match?.automatic
      ? 'by rule'
      : 'by hand'
    : l.tie
      ? 'tie'
      : !l.proposal
        ? 'nothing'
        : l.clear
          ? 'clear'
          : l.confidence >= 0.7
            ? 'likely'
            : l.confidence >= 0.35
              ? 'perhaps'
              : 'guess'
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Take what is chosen',
    inFields: true,
    when: () => canPost.value,
    run: () => {
      void accept()
    },
  },
  {
    key: 'p',
    label: 'The next proposal',
    when: () => proposals.value.length > 0 && detail.value?.state === 'open',
    run: () => choose((chosen.value + (picked.value || !detail.value?.tie ? 1 : 0)) % proposals.value.length),
  },
  {
    key: 'l',
    label: 'Load what the bank left',
    when: () => canPost.value && waiting.value.length > 0,
    run: () => {
      void takeInbox()
    },
  },
  { key: 'o', label: 'Load a file', when: () => canPost.value, run: () => picker.value?.click() },
  {
    key: 'a',
    label: 'Take all clear lines',
    when: () => canPost.value && clearCount.value > 0,
    run: () => {
      void takeClear()
    },
  },
  {
    key: 'u',
    label: 'Unmatch the line',
    when: () => detail.value?.state === 'settled' && session.can('receipts.correct'),
    run: () => {
      undoing.value = true
    },
  },
])
</script>

<template>
  <div ref="zone" class="flex min-h-0 flex-1 flex-col" :class="isOverDropZone ? 'bg-wash' : ''">
    <div class="sheet-head">
      <h1>Bank</h1>
      <span class="text-soft"
        ><template v-if="openLines">{{ plural(openLines, 'line') }} to work</template
        ><template v-else-if="accounts.length">every line is worked</template></span
      >
      <span v-if="canPost" class="ml-auto flex items-baseline gap-4">
        <button v-if="waiting.length" class="go !py-1.5" :disabled="busy" data-test="take" @click="takeInbox">
          Load {{ plural(waiting.length, 'file') }} of the bank
          <kbd class="!bg-transparent !text-on-accent opacity-80">L</kbd>
        </button>
        <button class="plain" :disabled="busy" @click="picker?.click()">A file <kbd>O</kbd></button>
        <input
          ref="picker"
          type="file"
          accept=".xml,.sta,.940,.mt940,.ofx,.qfx,.csv,.txt"
          class="sr-only"
          tabindex="-1"
          aria-label="Bank statement file"
          @change="
            $event => {
              ;($event.target as HTMLInputElement).files?.[0] &&
                takeFile(($event.target as HTMLInputElement).files![0]!)
              ;($event.target as HTMLInputElement).value = ''
            }
          "
        />
      </span>
    </div>
    <div v-if="aside.length" class="border-t border-rule px-[18px] py-1.5" data-test="aside" role="status">
      <p v-for="f in aside" :key="f.id" class="flex items-baseline gap-3">
        <span class="min-w-0 flex-1 truncate" :title="f.reason"
          ><b class="wrong font-semibold">{{ f.name }}</b> was set aside: {{ f.reason }}</span
        ><button v-if="canPost" class="plain" @click="tryAgain(f.id)">Try again</button>
      </p>
    </div>
    <AccountsStrip v-model:account="query.account" :accounts="accounts" :loading="loading" />
    <div class="filters">
      <span
        ><label class="label" for="state">Show </label
        ><select id="state" v-model="query.state" class="field">
          <option v-for="(label, s) in STATES" :key="s" :value="s">{{ label }}</option>
        </select></span
      >
      <span
        ><label class="label" for="account">Account </label
        ><select id="account" v-model="query.account" class="field">
          <option :value="undefined">all</option>
          <option v-for="a in accounts" :key="a.id" :value="a.id">{{ a.name }}, {{ a.currency }}</option>
        </select></span
      >
      <FindField
        v-model="query.search"
        class="w-[200px]"
        placeholder="Payer, text, amount, IBAN"
        label="Find a line"
      />
      <button v-if="canPost && clearCount" class="plain" :disabled="busy" @click="takeClear">
        Take {{ plural(clearCount, 'clear line') }} <kbd>A</kbd>
      </button>
    </div>
    <div v-if="busy && job && !taken" class="flex items-center gap-4 px-[18px] py-1" role="status">
      {{ job.step || 'Waiting' }}
      {{ job.total > 1 ? `${job.done.toLocaleString()} of ${job.total.toLocaleString()}` : '' }}
    </div>
    <p v-if="taken" class="px-[18px] pb-1.5" role="status" data-test="taken">
      <b class="font-semibold">{{ plural(taken.fresh, 'new line') }}</b><template v-if="taken.known"
        >, {{ taken.known }} known before</template
      >: {{ taken.applied }} taken automatically, {{ taken.left }} to work.<template
        v-for="w in taken.warnings"
        :key="w"
      >
        <span class="wrong">{{ w }}.</span></template
      >
      {{ ' ' }}
      <button class="hint" aria-label="Dismiss" @click="taken = null">✕</button>
    </p>
    <p v-if="trouble || said" class="wrong px-[18px] pb-1.5" role="alert">{{ trouble || said }}</p>
    <ul v-if="faults.length > 1" class="px-[18px] pb-1.5">
      <li v-for="(f, n) in faults.slice(0, 8)" :key="n">{{ f.path }}: {{ f.message }}</li>
    </ul>
    <SheetTable
      :columns="[
        { key: 'date', label: 'Booked', width: 78 },
        { key: 'amount', label: 'Amount', num: true, width: 128 },
        { key: 'name', label: 'From, and what they wrote', cut: true },
        {
          key: 'told',
          label: query.state === 'settled' || query.state === 'automatic' ? 'Settled as' : 'Proposal',
          cut: true,
          width: 290,
        },
        { key: 'sure', label: 'Sure', width: 76 },
      ]"
      :rows="rows"
      :row-key="r => r.id"
      :more="Boolean(answer?.next)"
      :loading="loading"
      label="Bank lines"
      @more="more"
      @cursor="
        r => {
          current = r
        }
      "
      @open="
        r =>
          navigateTo(
            r.state === 'open'
              ? `/banking/${r.id}`
              : r.match?.receipts[0]
                ? `/receipts/${r.match.receipts[0].id}`
                : `/books/journal?number=${r.match?.entry}`,
          )
      "
    >
      <template #cell-date="{ row }">{{ dateText(row.bookingDate).replace(/ \d{4}$/, '') }}</template>
      <template #cell-amount="{ row }"
        ><Figure :amount="row.amount" :currency="row.currency" /><span class="aside ml-1">{{
          row.currency
        }}</span></template
      >
      <template #cell-name="{ row }"
        ><span class="font-semibold">{{ row.name || row.code }}</span>
        {{ ' ' }}
        <span class="text-soft">{{ row.text || row.reference }}</span></template
      >
      <template #cell-told="{ row }"
        ><template v-if="row.match">{{ row.match.told.split('. ')[0] }}</template
        ><template v-else-if="row.proposal">{{ row.proposal.told }}</template
        ><span v-else class="hint">nothing proposed</span></template
      >
      <template #cell-sure="{ row }"
        ><span
          :title="row.held || (row.state === 'open' ? `${Math.round(row.confidence * 100)} %` : '')"
          :class="row.held || row.tie ? 'wrong' : row.clear ? '' : 'text-soft'"
          >{{ row.held ? 'held' : sure(row) }}</span
        ></template
      >
      <template #foot
        ><tr>
          <td colspan="5" class="!whitespace-normal">
            <span class="mr-5 inline-block">{{
              counts ? plural(counts.count ?? 0, 'line') : '… lines'
            }}</span><span
              v-for="t in counts?.totals ?? []"
              :key="t.currency"
              class="mr-5 inline-block whitespace-nowrap font-normal"
              >{{ t.currency }}
              <b class="font-semibold"
                ><Figure :amount="t.moneyIn + t.moneyOut" :currency="t.currency" zero /></b
              ><span v-if="t.moneyOut" class="text-soft">
                in {{ amountText(t.moneyIn, t.currency) }}, out
                {{ amountText(-t.moneyOut, t.currency) }}</span
              ></span
            >
          </td>
        </tr></template
      >
      <template #empty
        ><template v-if="query.search">No line matches “{{ query.search }}”.</template
        ><template v-else-if="query.state === 'open' && waiting.length"
          >Nothing to work. {{ plural(waiting.length, 'file') }} from the bank wait: load them with
          <kbd>L</kbd>.</template
        ><template v-else-if="query.state === 'open'"
          >Every line is worked. Load a statement with <kbd>O</kbd>, or drop its file here.</template
        ><template v-else>Nothing here.</template></template
      >
    </SheetTable>
    <LinePanel
      v-if="detail"
      v-model:undoing="undoing"
      v-model:reason="reason"
      :line="detail"
      :proposals="proposals"
      :chosen="chosen"
      :may-undo="session.can('receipts.correct')"
      @choose="choose"
    />
    <ProofStrip
      v-if="canPost && rows.length && (detail?.state !== 'settled' || undoing)"
      :proof="proof"
      :reason="off"
      :busy="busy || pending"
      :verb="undoing ? 'Unmatch' : 'Take'"
      after="then the next line"
      :labels="session.settings?.buckets.map(b => b.label) ?? []"
      @post="accept"
    />
  </div>
</template>
