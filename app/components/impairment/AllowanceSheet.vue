<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { AllowanceAnswer, AllowanceBand, NamedAllowanceRow } from '~~/contract/allowance'
import { CASE_KINDS } from '~~/core/impairment/reasons'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'

/** What is set aside for debts that will be lost: the matrix, cases by name, and the difference to post. */
const desk = useDesk()
const session = useSession()
const may = computed(() => session.can('impairment.post'))
const answer = ref<AllowanceAnswer | null>(null)
const loading = ref(false)
const trouble = ref('')
const busy = ref(false)
/** Looking forward, in per cent. */
const ask = reactive({ date: '', factor: 100, reason: '' })
const body = computed(() => ({
  date: ask.date || undefined,
  factor: Math.round((Number(ask.factor) || 0) * 100),
  reason: ask.reason,
}))
let key = crypto.randomUUID()
let asked = 0

async function load(): Promise<void> {
  const mine = ++asked
  loading.value = true
  try {
    const found = await call(contract.allowance.read, { query: body.value })
    if (mine !== asked) return
    answer.value = found
    ask.date ||= found.date
    trouble.value = ''
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  } finally {
    if (mine === asked) loading.value = false
  }
}
watch(body, load, { immediate: true })

interface Row {
  key: string
  what: string
  band: AllowanceBand | null
  named: NamedAllowanceRow | null
  gross: number
  borne: number
  byName: number
  exposed: number
  rate: number
  allowance: number
  net: number
}
const ofBand = (b: AllowanceBand, label: string): Row => ({
  ...{
    key: `b${b.band}`,
    what: label,
    band: b,
    named: null,
    gross: b.gross,
    borne: b.borne,
    byName: b.named,
  },
  ...{ exposed: b.exposed, rate: b.rate, allowance: b.allowance, net: b.gross - b.named - b.allowance },
})
const ofCase = (n: NamedAllowanceRow): Row => ({
  ...{ key: `n${n.id}${n.currency}`, what: n.customer.name, band: null, named: n, gross: n.base, borne: 0 },
  ...{ byName: 0, exposed: n.base, rate: n.rate, allowance: n.allowanceBase, net: n.base - n.allowanceBase },
})
const rows = computed((): Row[] => {
  const found = answer.value
  if (!found) return []
  return [...found.byBand.map(b => ofBand(b, found.bands[b.band]!)), ...found.named.map(ofCase)]
})
const current = ref<Row | null>(null)
const opened = ref<string | null>(null)
const cellsOf = (band: number) => answer.value!.cells.filter(c => c.band === band && c.gross !== 0)
const rateText = (rate: number) => `${(rate / 100).toFixed(2)} %`

const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () =>
    may.value && answer.value && ask.date
      ? call(contract.allowance.proof, { body: { ...body.value, date: ask.date } })
      : null,
  [answer],
)
const moved = computed(() => (answer.value?.differences ?? []).reduce((sum, d) => sum + d.differenceBase, 0))
const posted = computed(() => (answer.value?.differences ?? []).reduce((sum, d) => sum + d.postedBase, 0))
const reason = computed(() => (answer.value ? proofTrouble.value : 'the allowance is worked out'))

async function post(): Promise<void> {
  if (busy.value || !ready.value || !answer.value || !may.value) return
  busy.value = true
  try {
    const { difference } = await call(contract.allowance.post, {
      body: { ...body.value, date: ask.date },
      key,
    })
    key = crypto.randomUUID()
    desk.say({
      text: `The allowance of ${dateText(ask.date)} stands: ${amountText(difference, session.base, true)} posted.`,
    })
    await Promise.all([load(), runs.value?.load(), desk.refresh()])
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}

const { trouble: refused, guard } = useGuard()
const ending = ref<NamedAllowanceRow | null>(null)
async function endCase(reason: string): Promise<void> {
  const { id, customer } = ending.value!
  await guard(async () => {
    await call(contract.allowance.endCase, { params: { id }, body: { reason } })
    await load()
  }, `${customer.name} is in the matrix again.`)
  if (refused.value) return
  ending.value = null
}
const adding = ref(false)
const runs = ref<{ load: () => Promise<void> } | null>(null)
useKeys([
  { key: 'j', label: 'Judge a case by name', when: () => may.value, run: () => (adding.value = true) },
  { key: 'Ctrl+Enter', label: 'Post the allowance', inFields: true, run: () => void post() },
])
const BRIDGE = {
  used: 'lost against it',
  added: 'added',
  released: 'released',
  rates: 'other rates',
  named: 'by name',
} as const
const steps = computed(() =>
  (Object.keys(BRIDGE) as (keyof typeof BRIDGE)[]).flatMap(part => {
    const amount = answer.value?.bridge[part] ?? 0
    return amount === 0 ? [] : [{ part, label: BRIDGE[part], amount }]
  }),
)
</script>

<template>
  <div class="filters">
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="allowance-date">As of</label
      ><DateField id="allowance-date" v-model="ask.date" label="As of" :today="session.today"
    /></span>
    <span
      ><label class="label" for="allowance-factor">Looking forward </label
      ><input
        id="allowance-factor"
        v-model.number="ask.factor"
        class="field w-[74px] text-right"
        type="number"
        min="0"
        max="1000"
        step="1"
      />
      % of the rates</span
    >
    <input
      v-if="ask.factor !== 100"
      v-model="ask.reason"
      class="field w-[260px]"
      maxlength="200"
      placeholder="because …"
      aria-label="Why not 100 %"
    />
    <button v-if="may" class="plain" @click="adding = !adding">Judge a case by name <kbd>J</kbd></button>
    <span class="ml-auto flex gap-4"
      ><a
        v-for="format in ['csv', 'xlsx'] as const"
        :key="format"
        class="plain"
        :href="urlOf(contract.allowance.export, {}, { ...body, format })"
        >{{ format.toUpperCase() }}</a
      ></span
    >
  </div>
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <CaseForm
    v-if="adding"
    @done="
      async name => {
        adding = false
        await load()
        desk.say({ text: `${name} is judged by name from today on.` })
      }
    "
    @cancel="adding = false"
  />
  <SheetTable
    :columns="[
      { key: 'what', label: 'Age, days late', cut: true },
      { key: 'gross', label: 'Owed', num: true, width: 126 },
      { key: 'borne', label: 'Insured', num: true, width: 110, gives: 2 },
      { key: 'byName', label: 'By name', num: true, width: 110, gives: 1 },
      { key: 'exposed', label: 'Exposed', num: true, width: 126 },
      { key: 'rate', label: 'Rate', num: true, width: 78 },
      { key: 'allowance', label: 'Set aside', num: true, width: 116 },
      { key: 'net', label: 'Net', num: true, width: 126 },
    ]"
    :rows="rows"
    :row-key="r => r.key"
    :more="false"
    :loading="loading"
    :opened="opened"
    label="Allowance"
    @cursor="
      r => {
        current = r
        if (r.named) desk.choose(r.named.customer.number)
      }
    "
    @open="r => (opened = opened === r.key ? null : r.key)"
  >
    <template #cell-what="{ row }"
      ><span v-if="row.named" class="name">{{ row.what }}</span
      ><template v-else>{{ row.what }}</template
      ><span v-if="row.named" class="aside ml-2">{{
        CASE_KINDS[row.named.kind].toLowerCase()
      }}</span></template
    >
    <template #cell-gross="{ row }"><Figure :amount="row.gross" :currency="answer!.base" /></template>
    <template #cell-borne="{ row }"><Figure :amount="row.borne" :currency="answer!.base" /></template>
    <template #cell-byName="{ row }"><Figure :amount="row.byName" :currency="answer!.base" /></template>
    <template #cell-exposed="{ row }"><Figure :amount="row.exposed" :currency="answer!.base" /></template>
    <template #cell-rate="{ row }">{{ row.exposed ? rateText(row.rate) : '·' }}</template>
    <template #cell-allowance="{ row }"
      ><b class="font-semibold"><Figure :amount="row.allowance" :currency="answer!.base" /></b
    ></template>
    <template #cell-net="{ row }"><Figure :amount="row.net" :currency="answer!.base" /></template>
    <template #under="{ row }">
      <template v-if="row.band">
        <p v-for="c in cellsOf(row.band.band)" :key="c.riskClass + c.currency" class="text-soft">
          {{ c.riskClass ? `Risk class ${c.riskClass}` : 'No risk class' }}, {{ c.currency }}:
          {{ amountText(c.exposed, c.currency) }} exposed<template v-if="c.borne || c.named">
            of {{ amountText(c.gross, c.currency) }}</template
          >
          × {{ rateText(c.rate) }} =
          <b class="font-semibold">{{ amountText(c.allowance, c.currency, true) }}</b><template
            v-if="c.currency !== answer!.base"
          >
            ({{ amountText(c.allowanceBase, answer!.base, true) }})</template
          >
        </p>
      </template>
      <p v-else-if="row.named" class="text-soft">
        {{ row.named.item ? `${row.named.item}: ` : '' }}{{ row.named.text }}.
        {{ amountText(row.named.gross, row.named.currency, true) }} × {{ rateText(row.named.rate) }} =
        {{ amountText(row.named.allowance, row.named.currency, true) }}
        <NuxtLink class="makes ml-3" :to="`/accounts/${row.named.customer.number}`">On the account</NuxtLink>
        <button v-if="may" class="plain ml-3" @click="ending = row.named">End the case</button>
      </p>
    </template>
    <template #foot
      ><tr v-if="answer">
        <td>matrix and cases by name</td>
        <td class="num"><Figure :amount="answer.totals.gross" :currency="answer.base" zero /></td>
        <td colspan="4" class="text-soft">
          {{ amountText(answer.totals.collective, answer.base) }} by the matrix,
          {{ amountText(answer.totals.named, answer.base) }} by name
        </td>
        <td class="num">
          <b class="font-semibold"
            ><Figure :amount="answer.totals.allowance" :currency="answer.base" zero
          /></b>
        </td>
        <td class="num">
          <Figure :amount="answer.totals.net" :currency="answer.base" zero /><span class="aside ml-1">{{
            answer.base
          }}</span>
        </td>
      </tr></template
    >
    <template #empty>Nothing is owed on this day.</template>
  </SheetTable>
  <BecauseForm
    v-if="ending"
    :what="`End the case of ${ending.customer.name}`"
    verb="End it"
    label="Why it ends"
    @because="endCase"
    @cancel="ending = null"
  />
  <div v-if="answer" class="filters border-t border-rule !py-1.5" data-test="bridge">
    <span class="text-soft"
      ><template v-if="answer.bridge.from"
        >Allowance of {{ dateText(answer.bridge.from) }}
        {{ amountText(answer.bridge.opening, answer.base) }}</template
      ><template v-else>No allowance before</template></span
    >
    <span v-for="s in steps" :key="s.part"
      ><span class="mr-1 text-soft">{{ s.label }}</span
      ><b class="num font-semibold"
        >{{ s.amount > 0 ? '+' : '' }}{{ amountText(s.amount, answer.base) }}</b
      ></span
    >
    <span
      ><span class="mr-1 text-soft">now</span
      ><b class="num font-semibold">{{ amountText(answer.bridge.closing, answer.base, true) }}</b></span
    >
    <span class="ml-auto text-soft"
      >set aside on the account {{ amountText(posted, answer.base) }}, to post
      <b class="num font-semibold text-ink">{{ amountText(moved, answer.base, true) }}</b></span
    >
  </div>
  <AllowanceRuns ref="runs" @changed="load" />
  <ProofStrip
    v-if="may"
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Post it"
    after="reversible, until a later one stands on it"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
