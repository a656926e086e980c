<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { CompareItems, Comparison } from '~~/contract/aging'
import { lastMonthEnd } from '~~/core/calendar'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, kindText, plural } from '~/utils/format'

/** From the aging of one day to that of another: each part with its reason, each figure with its items. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const query = reactive({
  from: String(route.query.from ?? lastMonthEnd(session.today)),
  to: String(route.query.to ?? session.today),
  class: '',
  country: '',
})
type Part = Comparison['parts'][number]['part']
type Column = '0' | '1' | '2' | '3' | '4' | '5' | 'onAccount' | 'all'
const PARTS: Record<Part, { label: string; what: string }> = {
  billed: { label: 'Billed', what: 'new invoices, debit notes and fees' },
  older: { label: 'Became older', what: 'what stayed open, from one age to the next' },
  paid: { label: 'Paid', what: 'receipts, at the rate of their day' },
  credited: { label: 'Credited', what: 'credit notes' },
  allowed: { label: 'Allowed', what: 'discounts and small differences' },
  refunded: { label: 'Refunded', what: 'credit that went back, or that nobody claimed' },
  reversed: { label: 'Reversed', what: 'receipts that came back or were wrong' },
  rates: { label: 'Rates', what: 'differences of exchange when it was allocated' },
}
const answer = ref<Comparison | null>(null)
const trouble = ref('')
const shown = ref<Column>('all')
const made = ref<{ part: Part; column: Column; items: CompareItems } | null>(null)
let asked = 0
const filters = () => ({
  from: query.from,
  to: query.to,
  class: query.class || undefined,
  country: query.country || undefined,
})
async function read(): Promise<void> {
  const mine = ++asked
  try {
    const told = await call(contract.aging.compare, { query: filters() })
    if (mine !== asked) return
    answer.value = told
    made.value = null
    trouble.value = ''
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  }
}
void read().finally(holdKeys())
watch(query, () => void read())
const columns = computed((): { key: Column; label: string }[] => [
  ...(answer.value?.buckets ?? []).map((b, i) => ({ key: String(i) as Column, label: b.label })),
  { key: 'onAccount', label: 'On account' },
  { key: 'all', label: 'Total' },
])
interface Row {
  amounts: number[]
  onAccount: number
  total: number
}
const figure = (row: Row, column: Column): number =>
  column === 'all' ? row.total : column === 'onAccount' ? row.onAccount : row.amounts[Number(column)]!
const rows = computed(() =>
  (answer.value?.parts ?? []).filter(p => p.total || p.onAccount || p.amounts.some(Boolean)),
)
const steps = computed(() =>
  answer.value
    ? [
        {
          label: dateText(answer.value.from),
          amount: figure(answer.value.opening, shown.value),
          isEnd: true,
        },
        ...rows.value
          .map(p => ({ label: PARTS[p.part].label, amount: figure(p, shown.value), isEnd: false }))
          .filter(s => s.amount),
        { label: dateText(answer.value.to), amount: figure(answer.value.closing, shown.value), isEnd: true },
      ]
    : [],
)
async function makeUp(part: Part, column: Column): Promise<void> {
  shown.value = column
  try {
    const items = await call(contract.aging.compareItems, {
      query: { ...filters(), part, column, limit: 100 },
    })
    made.value = { part, column, items }
  } catch (error) {
    trouble.value = problemText(error)
  }
}
const columnLabel = computed(() => columns.value.find(c => c.key === shown.value)?.label.toLowerCase() ?? '')
useKeys([{ key: 'g', label: 'To the aging', run: () => navigateTo('/aging') }])
</script>

<template>
  <div class="sheet-head">
    <h1>Aging, compared</h1>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="from">from</label
      ><DateField id="from" v-model="query.from" label="From" :today="session.today"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="to">to</label
      ><DateField id="to" v-model="query.to" label="To" :today="session.today"
    /></span>
    <CustomerFilters v-model:of-class="query.class" v-model:country="query.country" />
    <NuxtLink class="plain ml-auto" to="/aging">Aging <kbd>G</kbd></NuxtLink>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <div
    v-if="answer"
    class="min-h-0 flex-1 overflow-auto pb-6"
    tabindex="0"
    role="region"
    aria-label="Comparison"
  >
    <div class="px-[18px]">
      <p class="hint">
        {{ columnLabel === 'total' ? 'All that is open' : columnLabel }}, in {{ answer.currency }}: what moved
        between the two days
      </p>
      <BridgePicture :steps="steps" :currency="answer.currency" data-test="bridge" />
    </div>
    <table class="grid-table mt-2" data-test="compare">
      <thead>
        <tr>
          <th>Base currency, {{ answer.currency }}</th>
          <th v-for="c in columns" :key="c.key" class="num">
            <button :class="shown === c.key ? 'text-ink underline' : 'hover:text-ink'" @click="shown = c.key">
              {{ c.label }}
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr class="font-semibold">
          <td class="w-full">{{ dateText(answer.from) }}</td>
          <td v-for="c in columns" :key="c.key" class="num">
            <Figure :amount="figure(answer.opening, c.key)" :currency="answer.currency" whole zero />
          </td>
        </tr>
        <tr v-for="p in rows" :key="p.part">
          <td>
            {{ PARTS[p.part].label }} <span class="hint ml-1.5">{{ PARTS[p.part].what }}</span>
          </td>
          <td v-for="c in columns" :key="c.key" class="num">
            <button v-if="figure(p, c.key)" class="makes" @click="makeUp(p.part, c.key)">
              <Figure :amount="figure(p, c.key)" :currency="answer.currency" whole /></button
            ><Figure v-else :amount="0" :currency="answer.currency" />
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td>{{ dateText(answer.to) }}</td>
          <td v-for="c in columns" :key="c.key" class="num">
            <Figure :amount="figure(answer.closing, c.key)" :currency="answer.currency" whole zero />
          </td>
        </tr>
      </tfoot>
    </table>
    <section v-if="made" class="mt-5 px-[18px]" data-test="moves">
      <h6 class="part-head mb-1 border-b border-rule pb-1">
        {{ PARTS[made.part].label }}, {{ columnLabel }}: {{ plural(made.items.count, 'item')
        }}<template v-if="made.items.count > made.items.items.length"
          >, the largest {{ made.items.items.length }}</template
        >
      </h6>
      <table class="grid-table flush">
        <tbody>
          <tr v-for="i in made.items.items" :key="i.id">
            <td>
              <NuxtLink
                class="makes"
                :to="`/accounts/${encodeURIComponent(i.customer.number)}?state=all&find=${i.number}`"
                >{{ i.number }}</NuxtLink
              >
              <span class="aside ml-1.5">{{ kindText(i.kind) }}</span>
            </td>
            <td class="w-full">
              <button class="makes" @click="desk.choose(i.customer.number)">{{ i.customer.name }}</button>
            </td>
            <td>{{ dateText(i.documentDate) }}</td>
            <td class="num"><Figure :amount="i.amount" :currency="made.items.currency" /></td>
          </tr>
        </tbody>
        <tfoot>
          <tr>
            <td colspan="3">{{ plural(made.items.count, 'item') }}</td>
            <td class="num"><Figure :amount="made.items.total" :currency="made.items.currency" zero /></td>
          </tr>
        </tfoot>
      </table>
    </section>
  </div>
  <p v-else-if="!trouble" class="hint p-[18px]">Reading the ledger …</p>
</template>
