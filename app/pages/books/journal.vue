<script setup lang="ts">
import { ENTRY_KINDS } from '~~/core/ledger'
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { Entry } from '~~/contract/books'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'
import { dateText, plural, timeText } from '~/utils/format'

const desk = useDesk()
const route = useRoute()
const query = reactive({
  search: '',
  kind: '',
  account: String(route.query.account ?? ''),
  number: route.query.number ? Number(route.query.number) : (undefined as number | undefined),
})
const { rows, answer, loading, trouble, more } = usePages<Entry, Awaited<ReturnType<typeof read>>>(
  read,
  [() => ({ ...query })],
  150,
)
function read(cursor: string | undefined) {
  return call(contract.books.entries, {
    query: {
      search: query.search || undefined,
      kind: query.kind || undefined,
      account: query.account || undefined,
      number: query.number,
      limit: 60,
      cursor,
    },
  })
}
const opened = ref<number | null>(null)
const base = computed(() => answer.value?.base ?? 'EUR')
const debit = (e: Entry) => e.lines.reduce((a, l) => a + Math.max(0, l.baseAmount), 0)
const KINDS: Record<string, string> = ENTRY_KINDS
const who = (e: Entry) => e.lines.find(l => l.customer)?.customer ?? null
</script>

<template>
  <div class="sheet-head">
    <h1>Journal</h1>
    <FindField
      v-model="query.search"
      class="w-[200px]"
      placeholder="Text, document, customer"
      label="Find an entry"
    />
    <span
      ><label class="label" for="kind">Kind </label
      ><select id="kind" v-model="query.kind" class="field">
        <option value="">any</option>
        <option v-for="(n, k) in KINDS" :key="k" :value="k">{{ n.toLowerCase() }}</option>
      </select></span
    >
    <span v-if="query.account" class="text-soft"
      >on account {{ query.account }}
      <button class="plain !py-0" @click="query.account = ''">all</button></span
    >
    <span v-if="query.number" class="text-soft"
      >entry {{ query.number }}
      <button class="plain !py-0" @click="query.number = undefined">all</button></span
    >
    <span class="hint ml-auto">every entry balances; nothing posted is changed</span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Entry', width: 76 },
      { key: 'date', label: 'Date', width: 92 },
      { key: 'kind', label: 'Kind', width: 96 },
      { key: 'text', label: 'Text', cut: true },
      { key: 'lines', label: 'Debit, credit', cut: true },
      { key: 'amount', label: `Amount, ${base}`, num: true, width: 116 },
      { key: 'by', label: 'By', width: 108 },
    ]"
    :rows="rows"
    :row-key="e => e.number"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Entries"
    :opened="query.number ? (rows[0]?.number ?? null) : opened"
    @more="more"
    @cursor="e => who(e) && desk.choose(who(e))"
    @open="
      e => {
        opened = opened === e.number ? null : e.number
      }
    "
  >
    <template #cell-number="{ row }"
      ><button
        class="makes font-semibold"
        tabindex="-1"
        :aria-expanded="opened === row.number"
        @click.stop="opened = opened === row.number ? null : row.number"
      >
        {{ row.number }}
      </button></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template><template #cell-kind="{ row }">{{
      KINDS[row.kind]
    }}</template>
    <template #cell-text="{ row }"
      >{{ row.lines.find(l => l.item)?.item }} {{ row.text !== KINDS[row.kind] ? row.text : '' }}</template
    >
    <template #cell-lines="{ row }"
      ><template v-if="row.lines.length"
        >{{ [...new Set(row.lines.filter(l => l.baseAmount > 0).map(l => l.account))].join(', ') }} to
        {{ [...new Set(row.lines.filter(l => l.baseAmount < 0).map(l => l.account))].join(', ') }}</template
      ><span v-else class="hint">no money moved</span></template
    >
    <template #cell-amount="{ row }"><Figure :amount="debit(row)" :currency="base" /></template
    ><template #cell-by="{ row }">{{ row.by }}</template>
    <template #under="{ row }">
      <p class="mb-1 text-soft">Posted by {{ row.by }} on {{ timeText(row.at) }}</p>
      <table class="ml-2">
        <tbody>
          <tr v-for="(l, n) in row.lines" :key="n">
            <td class="!h-6 !border-0">{{ l.account }} {{ l.accountName }}</td>
            <td class="!h-6 !border-0">{{ l.item }}</td>
            <td class="!h-6 !border-0">
              <NuxtLink v-if="l.customer" class="makes" :to="`/accounts/${l.customer}`">{{
                l.customer
              }}</NuxtLink>
            </td>
            <td class="num !h-6 w-[110px] !border-0">
              <Figure v-if="l.baseAmount > 0" :amount="l.baseAmount" :currency="base" />
            </td>
            <td class="num !h-6 w-[110px] !border-0">
              <Figure v-if="l.baseAmount < 0" :amount="-l.baseAmount" :currency="base" />
            </td>
            <td class="aside !h-6 !border-0">
              <template v-if="l.currency !== base && l.amount"
                ><Figure :amount="Math.abs(l.amount)" :currency="l.currency" /> {{ l.currency }}</template
              >
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <template #foot
      ><tr v-if="answer">
        <td colspan="5">{{ plural(answer.totals.entries, 'entry', 'entries') }}, debits equal credits</td>
        <td class="num"><Figure :amount="answer.totals.debit" :currency="base" zero /></td>
        <td /></tr
    ></template>
    <template #empty
      >No entry matches.
      <button
        class="plain"
        @click="Object.assign(query, { search: '', kind: '', account: '', number: undefined })"
      >
        Show all
      </button></template
    >
  </SheetTable>
</template>
