<script setup lang="ts">
import { Menu, MenuButton, MenuItems } from '@headlessui/vue'
import { useStorage } from '@vueuse/core'
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import { GROUPINGS, type AgingRow } from '~~/contract/aging'
import type { ViewState } from '~~/contract/views'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const query = reactive({
  asOf: String(route.query.asOf ?? session.today),
  known: String(route.query.known ?? ''),
  basis: 'due' as 'due' | 'document',
  currency: '',
  by: 'customer' as (typeof GROUPINGS)[number],
  within: '' as '' | (typeof GROUPINGS)[number],
  buckets: '',
  search: '',
  class: '',
  country: '',
  net: false,
  ours: false,
  sort: String(route.query.sort ?? '-total') as '-total',
})
const asked = computed(() => ({
  asOf: query.asOf,
  known: /^\d+$/.test(query.known) ? query.known : undefined,
  basis: query.basis,
  currency: query.currency || undefined,
  by: query.by,
  within: query.within && query.within !== query.by ? query.within : undefined,
  buckets: query.buckets || undefined,
  search: query.search || undefined,
  class: query.class || undefined,
  country: query.country || undefined,
  net: query.net ? ('1' as const) : undefined,
  ours: query.ours ? ('1' as const) : undefined,
  sort: query.sort,
}))
const { rows, answer, loading, trouble, more } = usePages<AgingRow, Awaited<ReturnType<typeof read>>>(
  read,
  [() => ({ ...asked.value })],
  150,
)
function read(cursor: string | undefined) {
  return call(contract.aging.list, { query: { ...asked.value, limit: 100, cursor } })
}
watch([() => query.asOf, () => asked.value.known], ([asOf, known]) =>
  navigateTo(
    { query: { ...(asOf === session.today ? {} : { asOf }), ...(known ? { known } : {}) } },
    { replace: true },
  ),
)

const hidden = useStorage<string[]>('bilancio-aging-hidden', [])
const cents = useStorage('bilancio-aging-cents', false)
/** What a view keeps: not the day, nor what was known, which are of the moment. */
const KEPT = [
  'basis',
  'currency',
  'by',
  'within',
  'buckets',
  'search',
  'class',
  'country',
  'net',
  'ours',
  'sort',
] as const
const view = computed((): ViewState => ({
  ...Object.fromEntries(KEPT.map(name => [name, query[name]])),
  hidden: [...hidden.value].sort(),
}))
function apply(state: ViewState): void {
  for (const name of KEPT)
    if (typeof state[name] === typeof query[name]) Object.assign(query, { [name]: state[name] })
  hidden.value = Array.isArray(state.hidden) ? state.hidden : []
}
const strip = ref<{ begin: () => void } | null>(null)
const BY: Record<(typeof GROUPINGS)[number], string> = {
  customer: 'Customer',
  group: 'Group',
  class: 'Class',
  controller: 'Controller',
  sales: 'Sales contact',
  currency: 'Currency',
  country: 'Country',
}
const buckets = computed(() => answer.value?.buckets ?? [])
const columns = computed(() =>
  [
    { key: 'customer', label: BY[query.by], sort: 'name', cut: true },
    ...(asked.value.within ? [{ key: 'within', label: BY[asked.value.within], cut: true }] : []),
    { key: 'strata', label: '', width: 66, gives: 1 },
    ...buckets.value.map((b, i) => ({ key: `b${i}`, label: b.label, num: true, sort: `b${i}` })),
    {
      key: 'onAccount',
      label: 'On account',
      num: true,
      sort: 'onAccount',
      title: 'unallocated receipts and credit notes',
      gives: 2,
    },
    { key: 'total', label: 'Total', num: true, sort: 'total' },
  ].filter(c => !hidden.value.includes(c.key)),
)
const choices = computed(() => [
  { key: 'strata', label: 'Strata' },
  ...buckets.value.map((b, i) => ({ key: `b${i}`, label: b.label })),
  { key: 'onAccount', label: 'On account' },
])
const currency = computed(() => answer.value?.totals.currency ?? session.base)
const open = (row: AgingRow) =>
  query.by === 'customer' || query.by === 'group'
    ? navigateTo({
        path: `/accounts/${encodeURIComponent(row.customer.number)}`,
        query: query.asOf === session.today ? {} : { asOf: query.asOf },
      })
    : makeUp(row, 'all')
const onCursor = (row: AgingRow) => {
  if (query.by === 'customer' || query.by === 'group') void desk.choose(row.customer.number)
}
const current = ref<AgingRow | null>(null)
type Part = '0' | 'onAccount' | 'all'
function makeUp(row: AgingRow | null, bucket: string): void {
  const label =
    bucket === 'all'
      ? 'open'
      : bucket === 'onAccount'
        ? 'on account'
        : buckets.value[Number(bucket)]!.label.toLowerCase()
  const {
    asOf,
    known,
    basis,
    currency: c,
    by,
    within,
    buckets: set,
    search,
    class: k,
    country,
    ours,
  } = asked.value
  desk.makeUp = {
    title: row
      ? `${[row.customer.name, row.within?.name].filter(Boolean).join(', ')}, ${label}`
      : `All, ${label}`,
    why: query.net ? 'Shown before credit is set off.' : undefined,
    query: {
      asOf,
      known,
      basis,
      currency: c,
      by,
      within,
      buckets: set,
      search,
      class: k,
      country,
      ours,
      key: row?.customer.number,
      withinKey: row?.within?.number,
      bucket: bucket as Part,
    },
  }
}
const exported = (format: string) => urlOf(contract.aging.export, {}, { ...asked.value, format })
useKeys([
  { key: 'c', label: 'Compare two days', run: () => navigateTo('/aging/compare') },
  { key: 's', label: 'Save this view', run: () => strip.value?.begin() },
  {
    key: 'm',
    label: 'Make-up of the row',
    run: () => {
      if (current.value) makeUp(current.value, 'all')
    },
  },
  {
    key: 'e',
    label: 'Export as XLSX',
    run: () => {
      window.location.href = exported('xlsx')
    },
  },
])
const share = (i: number) => {
  const t = answer.value!.totals
  const sum = t.amounts.reduce((a, b) => a + b, 0)
  return sum ? Math.round((100 * t.amounts[i]!) / sum) : 0
}
</script>

<template>
  <div class="sheet-head">
    <h1>Aging</h1>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="as-of">as of</label
      ><DateField id="as-of" v-model="query.asOf" label="As of" :today="session.today"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label
        class="label"
        for="known"
        title="The same date as it was known when this entry was the last: last month’s report, to the cent"
        >known to</label
      ><input
        id="known"
        v-model="query.known"
        class="field w-[88px] text-right"
        inputmode="numeric"
        :placeholder="answer && !answer.known.asked ? `entry ${answer.known.entry}` : ''"
        data-test="known"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="basis">by</label
      ><select id="basis" v-model="query.basis" class="field">
        <option value="due">due date</option>
        <option value="document">document date</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="currency">in</label
      ><select id="currency" v-model="query.currency" class="field">
        <option value="">{{ session.base }}, all items</option>
        <option v-for="c in session.settings?.currencies ?? []" :key="c" :value="c">
          {{ c }} items only
        </option>
      </select></span
    >
    <button
      v-if="answer?.control"
      class="ml-auto"
      :class="answer.control.ties ? 'hint makes' : 'wrong'"
      data-test="ties"
      :title="answer.control.name"
      @click="desk.tieOut = query.asOf"
    >
      {{ answer.control.ties ? 'ties to' : 'does not tie to' }} {{ answer.control.account }}
    </button>
  </div>
  <ViewStrip ref="strip" screen="aging" :current="view" @apply="apply">
    <Menu as="div" class="relative">
      <MenuButton class="text-soft">Columns</MenuButton>
      <MenuItems
        class="absolute right-0 z-20 mt-1 w-40 border border-strong bg-sheet p-2 shadow-lg outline-none"
      >
        <ColumnChoice v-model:hidden="hidden" :choices="choices" />
        <label v-if="session.settings?.bucketSets.length" class="mt-1 block border-t border-rule pt-2"
          >Ages
          <select v-model="query.buckets" class="field w-full">
            <option value="">of the house</option>
            <option v-for="b in session.settings.bucketSets" :key="b.name" :value="b.name">
              {{ b.name }}
            </option>
          </select></label
        >
        <label class="mt-1 flex items-center gap-2 border-t border-rule pt-2"
          ><input v-model="cents" type="checkbox" class="tick" /> Cents</label
        >
        <label class="flex items-center gap-2 py-1" title="unallocated credit against the oldest buckets"
          ><input v-model="query.net" type="checkbox" class="tick" /> Set off credit</label
        >
        <label
          class="flex items-center gap-2 py-1"
          title="with recourse: still ours, though its money was had"
          ><input v-model="query.ours" type="checkbox" class="tick" /> Leave out what lies with a
          factor</label
        >
      </MenuItems>
    </Menu>
    <span class="text-soft"
      >Export <a class="makes text-accent" :href="exported('csv')" download>CSV</a>
      {{ ' ' }}
      <a class="makes text-accent" :href="exported('xlsx')" download>XLSX</a></span
    >
  </ViewStrip>
  <div v-if="answer" class="px-[18px]">
    <Strata
      :amounts="answer.totals.amounts"
      :labels="buckets.map(b => b.label)"
      :currency="currency"
      :height="9"
    />
  </div>
  <div
    v-if="answer"
    class="grid gap-[2px] px-[18px] pb-1.5"
    :style="{ gridTemplateColumns: `repeat(${buckets.length}, minmax(0,1fr))` }"
  >
    <button
      v-for="(b, i) in buckets"
      :key="b.label"
      class="pt-[3px] text-left"
      @click="makeUp(null, String(i))"
    >
      <span class="label block !text-[11.5px]"
        ><i
          class="mr-1.5 inline-block h-[8px] w-[8px]"
          :style="{ background: `var(--age-${i})` }"
          aria-hidden="true"
        />{{ b.label }}</span
      ><b class="makes text-[14.5px] font-semibold"
        ><Figure :amount="answer.totals.amounts[i]!" :currency="currency" whole zero /></b
      ><span class="hint ml-1.5 text-[11.5px]">{{ share(i) }} %</span>
    </button>
  </div>
  <div class="filters">
    <FindField
      v-model="query.search"
      class="w-[120px]"
      placeholder="Name or number"
      label="Filter by name or number"
      data-test="filter"
    />
    <span
      ><label class="label" for="by">Rows </label
      ><select id="by" v-model="query.by" class="field w-[96px]">
        <option v-for="g in GROUPINGS" :key="g" :value="g">{{ BY[g].toLowerCase() }}</option>
      </select></span
    >
    <span
      ><label class="label" for="within">and </label
      ><select id="within" v-model="query.within" class="field w-[84px]">
        <option value="">nothing</option>
        <option v-for="g in GROUPINGS.filter(x => x !== query.by)" :key="g" :value="g">
          {{ BY[g].toLowerCase() }}
        </option>
      </select></span
    >
    <CustomerFilters v-model:of-class="query.class" v-model:country="query.country" />
    <NuxtLink class="ml-auto text-soft" to="/aging/compare">Compare <kbd>C</kbd></NuxtLink>
    <span v-if="query.ours" class="text-soft"
      >without what lies with a factor
      <button class="plain !py-0" @click="query.ours = false">show it</button></span
    >
    <span v-if="query.net" class="text-soft"
      >credit set off <button class="plain !py-0" @click="query.net = false">show it</button></span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px] py-3">{{ trouble }}</p>
  <SheetTable
    v-model:sort="query.sort"
    :columns="columns"
    :rows="rows"
    :row-key="r => `${r.customer.number} ${r.within?.number ?? ''}`"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Aging"
    @more="more"
    @cursor="
      r => {
        current = r
        onCursor(r)
      }
    "
    @open="open"
  >
    <template #cell-within="{ row }">{{ row.within?.name || 'none' }}</template>
    <template #cell-customer="{ row }"
      ><span class="name">{{ row.customer.name || 'without' }}</span
      ><span v-if="query.by === 'customer' || query.by === 'group'" class="aside ml-1.5">{{
        row.customer.number
      }}</span></template
    >
    <template #cell-strata="{ row }"
      ><Strata :amounts="row.amounts" :labels="buckets.map(b => b.label)" :currency="currency" :width="54"
    /></template>
    <template v-for="(b, i) in buckets" :key="b.label" #[`cell-b${i}`]="{ row }"
      ><button class="makes" tabindex="-1" @click.stop="makeUp(row, String(i))">
        <Figure :amount="row.amounts[i]!" :currency="currency" :whole="!cents" /></button
    ></template>
    <template #cell-onAccount="{ row }"
      ><button class="makes" tabindex="-1" @click.stop="makeUp(row, 'onAccount')">
        <Figure :amount="row.onAccount" :currency="currency" :whole="!cents" cr /></button
    ></template>
    <template #cell-total="{ row }"
      ><button class="makes font-semibold" tabindex="-1" @click.stop="makeUp(row, 'all')">
        <Figure :amount="row.total" :currency="currency" :whole="!cents" zero cr /></button
    ></template>
    <template #foot="{ columns: shown }"
      ><tr v-if="answer">
        <td
          v-for="(c, n) in shown ?? columns"
          :key="c.key"
          :class="[c.num ? 'num' : '', n === 0 ? 'cut' : '']"
        >
          <template v-if="n === 0">All {{ answer.totals.count }}</template>
          <button v-else-if="c.key === 'total'" class="makes" data-test="total" @click="makeUp(null, 'all')">
            <Figure :amount="answer.totals.total" :currency="currency" :whole="!cents" zero cr />
          </button>
          <button v-else-if="c.key === 'onAccount'" class="makes" @click="makeUp(null, 'onAccount')">
            <Figure :amount="answer.totals.onAccount" :currency="currency" :whole="!cents" cr />
          </button>
          <button v-else-if="c.num" class="makes" @click="makeUp(null, c.key.slice(1))">
            <Figure
              :amount="answer.totals.amounts[Number(c.key.slice(1))]!"
              :currency="currency"
              :whole="!cents"
            />
          </button>
        </td></tr
    ></template>
    <template #empty
      ><template v-if="query.search"
        >No customer called “{{ query.search }}” has anything open on {{ dateText(query.asOf) }}.
        <button class="plain" @click="query.search = ''">Show all</button></template
      ><template v-else
        >Nothing is open on {{ dateText(query.asOf) }}.
        <NuxtLink v-if="session.can('import')" class="plain" to="/documents/import"
          >Import customers and documents</NuxtLink
        ></template
      ></template
    >
  </SheetTable>
  <p v-if="answer" class="sr-only" role="status">{{ plural(answer.totals.count, 'row') }}</p>
</template>
