<script setup lang="ts">
import { Menu, MenuButton, MenuItems } from '@headlessui/vue'
import { useStorage } from '@vueuse/core'
import { computed, reactive, ref } from 'vue'
import type { z } from 'zod'
import { contract } from '~~/contract'
import type { AccountRow, AccountsQuery } from '~~/contract/accounts'
import type { ViewState } from '~~/contract/views'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, urlOf } from '~/utils/api'
import { dateText } from '~/utils/format'

/** All accounts: what each owes, how old, how risky, how it pays. Sorted by any column, kept as views. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
type Answer = z.output<NonNullable<typeof contract.accounts.list.response>>

const query = reactive({
  search: '',
  class: '',
  country: '',
  only: String(route.query.only ?? '') as '' | NonNullable<AccountsQuery['only']>,
  sort: String(route.query.sort ?? 'name') as AccountsQuery['sort'],
})
const { rows, answer, loading, trouble, more } = usePages<AccountRow, Answer>(
  cursor =>
    call(contract.accounts.list, {
      query: {
        search: query.search || undefined,
        class: query.class || undefined,
        country: query.country || undefined,
        only: query.only || undefined,
        sort: query.sort,
        limit: 100,
        cursor,
      },
    }),
  [() => ({ ...query })],
  150,
)

const COLUMNS = [
  { key: 'name', label: 'Customer', sort: 'name', cut: true },
  { key: 'number', label: 'Number', sort: 'number', width: 74, gives: 11 },
  { key: 'class', label: 'Class', sort: 'class', width: 116, gives: 3 },
  { key: 'place', label: 'Place', sort: 'place', width: 150, gives: 1 },
  { key: 'contact', label: 'Contact', sort: 'contact', width: 210, gives: 2 },
  { key: 'controller', label: 'Controller', sort: 'controller', width: 110, gives: 2 },
  { key: 'currency', label: 'Currency', sort: 'currency', width: 76, gives: 3 },
  { key: 'open', label: 'Open', sort: 'open', num: true, width: 88 },
  { key: 'overdue', label: 'Overdue', sort: 'overdue', num: true, width: 88 },
  { key: 'oldest', label: 'Oldest', sort: 'oldest', num: true, width: 66, title: 'days late of the oldest' },
  { key: 'exposure', label: 'Exposure', sort: 'exposure', num: true, width: 88, gives: 8 },
  { key: 'limit', label: 'Limit', sort: 'limit', num: true, width: 84, gives: 5 },
  { key: 'headroom', label: 'Headroom', sort: 'headroom', num: true, width: 92, gives: 10 },
  { key: 'hold', label: 'Held', sort: 'hold', width: 104, gives: 9 },
  { key: 'level', label: 'Level', sort: 'level', num: true, width: 56, title: 'reminder level', gives: 7 },
  {
    key: 'lateness',
    label: 'Pays',
    sort: 'lateness',
    num: true,
    width: 76,
    title: 'days late of what was paid in the last year, weighted by amount',
    gives: 6,
  },
  { key: 'score', label: 'Score', sort: 'score', num: true, width: 58, title: 'of the review', gives: 4 },
  { key: 'contacted', label: 'Last contact', sort: 'contacted', width: 128, gives: 5 },
]
/** Not shown until somebody asks for them: the Card has them. */
const AT_FIRST = ['number', 'class', 'place', 'contact', 'controller', 'currency', 'limit', 'score']
const hidden = useStorage<string[]>('bilancio-accounts-hidden', AT_FIRST)
const columns = computed(() => COLUMNS.filter(c => !hidden.value.includes(c.key)))
const choices = COLUMNS.filter(c => c.key !== 'name')

const current = computed((): ViewState => ({ ...query, hidden: [...hidden.value].sort() }))
function apply(state: ViewState): void {
  const text = (name: string, otherwise = '') => String(state[name] ?? otherwise)
  Object.assign(query, {
    search: text('search'),
    class: text('class'),
    country: text('country'),
    only: text('only'),
    sort: text('sort', 'name'),
  })
  hidden.value = Array.isArray(state.hidden) ? state.hidden : AT_FIRST
}

const strip = ref<{ begin: () => void } | null>(null)
useKeys([
  { key: 's', label: 'Save this view', run: () => strip.value?.begin() },
  {
    key: 'a',
    label: 'Add a customer',
    when: () => session.can('customers.edit'),
    run: () => navigateTo('/accounts/new'),
  },
])
const days = (n: number) => `${n < 0 ? '−' : ''}${Math.abs(n)}`
</script>

<template>
  <div class="sheet-head">
    <h1>Accounts</h1>
    <FindField v-model="query.search" class="w-[160px]" placeholder="Name or number" label="Filter" />
    <span
      ><label class="label" for="only">Show </label
      ><select id="only" v-model="query.only" class="field">
        <option value="">all</option>
        <option value="open">with anything open</option>
        <option value="overdue">overdue</option>
        <option value="over">over their limit</option>
        <option value="held">held</option>
      </select></span
    >
    <CustomerFilters v-model:of-class="query.class" v-model:country="query.country" />
  </div>
  <ViewStrip ref="strip" screen="accounts" :current="current" @apply="apply">
    <Menu as="div" class="relative">
      <MenuButton class="text-soft">Columns</MenuButton>
      <MenuItems
        class="absolute right-0 z-20 mt-1 w-40 border border-strong bg-sheet p-2 shadow-lg outline-none"
        ><ColumnChoice v-model:hidden="hidden" :choices="choices"
      /></MenuItems>
    </Menu>
    <a
      class="plain"
      :href="urlOf(contract.accounts.export, {}, { search: query.search, format: 'csv' })"
      title="the master of all accounts found, in the columns of the import"
      >CSV</a
    >
    <a
      class="plain"
      :href="urlOf(contract.accounts.export, {}, { search: query.search, format: 'xlsx' })"
      title="the master of all accounts found, in the columns of the import"
      >XLSX</a
    >
    <NuxtLink v-if="session.can('customers.edit')" class="plain" to="/accounts/new"
      >New customer <kbd>A</kbd></NuxtLink
    >
  </ViewStrip>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    v-model:sort="query.sort"
    :columns="columns"
    :rows="rows"
    :row-key="r => r.number"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Accounts"
    @more="more"
    @cursor="r => desk.choose(r.number)"
    @open="r => navigateTo(`/accounts/${encodeURIComponent(r.number)}`)"
  >
    <template #cell-name="{ row }"
      ><NuxtLink class="name makes" tabindex="-1" :to="`/accounts/${encodeURIComponent(row.number)}`">{{
        row.name
      }}</NuxtLink></template
    >
    <template #cell-number="{ row }">{{ row.number }}</template><template #cell-class="{ row }">{{
      row.class
    }}</template
    ><template #cell-place="{ row }"
      >{{ row.city }}<span class="aside ml-1.5">{{ row.country }}</span></template
    ><template #cell-contact="{ row }"
      >{{ row.contact }} <span class="aside">{{ row.phone }}</span></template
    ><template #cell-controller="{ row }">{{ row.controller }}</template
    ><template #cell-currency="{ row }">{{ row.currency }}</template
    ><template #cell-open="{ row }"><Figure :amount="row.open" :currency="session.base" whole cr /></template
    ><template #cell-overdue="{ row }"
      ><Figure :amount="row.overdue" :currency="session.base" whole /></template
    ><template #cell-oldest="{ row }"
      ><template v-if="row.oldest !== null">{{ row.oldest }}</template
      ><span v-else class="none">·</span></template
    ><template #cell-exposure="{ row }"
      ><NuxtLink class="makes" tabindex="-1" :to="`/exposure/${encodeURIComponent(row.number)}`"
        ><Figure :amount="row.exposure" :currency="session.base" whole cr /></NuxtLink></template
    ><template #cell-limit="{ row }"
      ><Figure v-if="row.limit !== null" :amount="row.limit" :currency="session.base" whole zero /><span
        v-else
        class="none"
        >·</span
      ></template
    ><template #cell-headroom="{ row }"
      ><span v-if="row.headroom !== null" :class="row.headroom < 0 ? 'wrong' : ''"
        ><Figure :amount="row.headroom" :currency="session.base" whole zero /></span
      ><span v-else class="none" title="no limit">·</span></template
    ><template #cell-hold="{ row }"
      ><span class="wrong" :title="row.holds.join(', ')">{{ row.holds[0] ?? '' }}</span
      ><span v-if="row.holds.length > 1" class="aside ml-1">+{{ row.holds.length - 1 }}</span></template
    ><template #cell-level="{ row }"
      ><template v-if="row.level">{{ row.level }}</template
      ><span v-else class="none">·</span></template
    ><template #cell-lateness="{ row }"
      ><template v-if="row.lateness !== null">{{ days(row.lateness) }} d</template
      ><span v-else class="none">·</span></template
    ><template #cell-score="{ row }"
      ><NuxtLink
        v-if="row.score !== null"
        class="makes"
        tabindex="-1"
        :to="`/review/${encodeURIComponent(row.number)}`"
        >{{ Math.round(row.score) }}</NuxtLink
      ><span v-else class="none">·</span></template
    ><template #cell-contacted="{ row }"
      ><template v-if="row.contacted"
        >{{ dateText(row.contacted.date) }} <span class="aside">{{ row.contacted.how }}</span></template
      ><span v-else class="none">·</span></template
    >
    <template #foot="{ columns: shown }"
      ><tr v-if="answer">
        <td v-for="c in shown ?? columns" :key="c.key" :class="[c.num ? 'num' : '', c.cut ? 'cut' : '']">
          <template v-if="c.key === 'name'">All {{ answer.totals.count }}, {{ session.base }}</template>
          <Figure
            v-else-if="c.key === 'open' || c.key === 'overdue' || c.key === 'exposure'"
            :amount="answer.totals[c.key]"
            :currency="session.base"
            whole
            zero
          />
        </td></tr
    ></template>
    <template #empty
      ><template v-if="query.only || query.class || query.country"
        >No account is like that. <button class="plain" @click="apply({ hidden })">Show all</button></template
      ><template v-else
        >No customer found. Try part of the name, or
        <NuxtLink class="plain" to="/documents/import">import customers</NuxtLink>.</template
      ></template
    >
  </SheetTable>
</template>
