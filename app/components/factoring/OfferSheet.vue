<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { FacilityRow, LeftOutRow, OfferedRow } from '~~/contract/factoring'
import { LEFT_OUT } from '~~/core/factoring/eligible'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'

/** What a factor may be offered; each invoice that is left out with its reason. */
const props = defineProps<{ facilities: FacilityRow[] }>()
const emit = defineEmits<{ made: [] }>()
const desk = useDesk()
const session = useSession()
const ask = reactive({ facility: '', currency: '' })
const facility = computed(() => props.facilities.find(f => f.code === ask.facility) ?? null)
watch(
  () => props.facilities,
  list => {
    ask.facility ||= list[0]?.code ?? ''
    ask.currency ||= list[0]?.currencies[0] ?? ''
  },
  { immediate: true },
)
type Proposal = Awaited<ReturnType<typeof read>>
const read = () =>
  call(contract.factoring.proposal, {
    query: { facility: ask.facility, currency: ask.currency, limit: 2000 },
  })
const answer = ref<Proposal | null>(null)
const loading = ref(false)
const trouble = ref('')
const shown = ref<'chosen' | 'left'>('chosen')
/** Taken out by hand. */
const out = reactive(new Set<number>())
let asked = 0
async function load(): Promise<void> {
  if (!ask.facility || !ask.currency) return
  const mine = ++asked
  loading.value = true
  try {
    const found = await read()
    if (mine !== asked) return
    answer.value = found
    out.clear()
    trouble.value = ''
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  } finally {
    if (mine === asked) loading.value = false
  }
}
watch(ask, load, { immediate: true })

type Row = OfferedRow & Partial<Pick<LeftOutRow, 'rule' | 'why'>>
const rows = computed(
  (): Row[] => (shown.value === 'chosen' ? answer.value?.chosen : answer.value?.leftOut) ?? [],
)
const current = ref<Row | null>(null)
const chosen = computed(() => (answer.value?.chosen ?? []).filter(c => !out.has(c.itemId)))
const total = computed(() => chosen.value.reduce((sum, c) => sum + c.open, 0))
const share = (points: number) => Math.round((total.value * points) / 10_000)
function toggle(row: Row | null): void {
  if (!row || row.rule) return
  if (out.has(row.itemId)) out.delete(row.itemId)
  else out.add(row.itemId)
}
const busy = ref(false)
let key = crypto.randomUUID()
async function offer(): Promise<void> {
  if (busy.value || !chosen.value.length) return
  busy.value = true
  try {
    const { number } = await call(contract.factoring.offer, {
      body: { ...ask, itemIds: chosen.value.map(c => c.itemId) },
      key,
    })
    key = crypto.randomUUID()
    desk.say({
      text: `${number} was given to ${facility.value!.name}: ${plural(chosen.value.length, 'invoice')}.`,
    })
    emit('made')
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  { key: ' ', label: 'Offer it, or not', run: () => toggle(current.value) },
  {
    key: 'l',
    label: 'What is left out, or what is offered',
    run: () => (shown.value = shown.value === 'chosen' ? 'left' : 'chosen'),
  },
  { key: 'Ctrl+Enter', label: 'Give the schedule to the factor', inFields: true, run: () => void offer() },
])
</script>

<template>
  <p v-if="!facilities.length" class="px-[18px] py-3 text-soft">
    No factor is known yet: Factors adds one with its terms.
  </p>
  <template v-else>
    <div class="filters">
      <span
        ><label class="label" for="offer-factor">To </label
        ><select id="offer-factor" v-model="ask.facility" class="field">
          <option v-for="f in facilities" :key="f.code" :value="f.code">{{ f.name }}</option>
        </select></span
      >
      <span
        ><label class="label" for="offer-currency">in </label
        ><select id="offer-currency" v-model="ask.currency" class="field">
          <option v-for="c in facility?.currencies ?? []" :key="c">{{ c }}</option>
        </select></span
      >
      <button class="plain" @click="shown = shown === 'chosen' ? 'left' : 'chosen'">
        {{
          shown === 'chosen'
            ? `${plural(answer?.reasons.reduce((n, r) => n + r.count, 0) ?? 0, 'invoice')} left out`
            : 'What is offered'
        }}
        <kbd>L</kbd>
      </button>
      <span v-if="shown === 'left'" class="text-soft"
        ><span v-for="r in answer?.reasons ?? []" :key="r.rule" class="mr-3"
          >{{ LEFT_OUT[r.rule].toLowerCase() }} {{ r.count }}</span
        ></span
      >
      <span v-else class="hint"><kbd>Space</kbd> out, or in</span>
    </div>
    <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
    <SheetTable
      :columns="[
        { key: 'pick', label: '', width: 34 },
        { key: 'customer', label: 'Debtor', cut: true },
        { key: 'number', label: 'Invoice', width: 108 },
        { key: 'due', label: 'Due', width: 98 },
        ...(shown === 'left' ? [{ key: 'why', label: 'Left out because', width: 330 }] : []),
        { key: 'open', label: 'Open', num: true, width: 124 },
      ]"
      :rows="rows"
      :row-key="r => r.itemId"
      :more="false"
      :loading="loading"
      label="Invoices for the factor"
      :row-class="r => (out.has(r.itemId) ? 'text-faint' : '')"
      @cursor="
        r => {
          current = r
          desk.choose(r.customer.number)
        }
      "
    >
      <template #cell-pick="{ row }"
        ><input
          v-if="!row.rule"
          type="checkbox"
          class="tick"
          tabindex="-1"
          :checked="!out.has(row.itemId)"
          :aria-label="`Offer ${row.number}`"
          @click.stop.prevent="toggle(row)"
      /></template>
      <template #cell-customer="{ row }"
        ><span class="name">{{ row.customer.name }}</span></template
      >
      <template #cell-number="{ row }">{{ row.number }}</template>
      <template #cell-due="{ row }">{{ dateText(row.due) }}</template>
      <template #cell-why="{ row }">{{ row.rule ? LEFT_OUT[row.rule] : '' }}: {{ row.why }}</template>
      <template #cell-open="{ row }"><Figure :amount="row.open" :currency="row.currency" /></template>
      <template #empty>{{
        shown === 'chosen' ? 'The terms allow none of the open invoices.' : 'Nothing is left out.'
      }}</template>
    </SheetTable>
    <div class="filters border-t-2 border-ink !py-2.5" data-test="offer">
      <span
        >{{ plural(chosen.length, 'invoice') }},
        <b class="num font-semibold">{{ amountText(total, ask.currency, true) }}</b></span
      >
      <template v-if="facility">
        <span class="text-soft">advance {{ amountText(share(facility.advanceRate), ask.currency) }}</span>
        <span class="text-soft"
          >commission about {{ amountText(share(facility.commissionRate), ask.currency) }}</span
        >
        <span v-if="facility.limit" class="text-soft"
          >limit {{ amountText(facility.limit, session.base) }}, used
          {{ amountText(facility.used, session.base) }}</span
        >
        <span class="text-soft">{{ facility.recourse ? 'with' : 'without' }} recourse</span>
      </template>
      <button class="go ml-auto" :disabled="busy || !chosen.length" data-test="post" @click="offer">
        Give it to the factor
      </button>
    </div>
  </template>
</template>
