<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { DISPUTE_REASONS, type DisputeReason } from '~~/core/disputes'
import { contract } from '~~/contract'
import type { DisputeRow } from '~~/contract/disputes'
import { REASON_CODES } from '~/composables/chasing'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, plural } from '~/utils/format'

/** What customers dispute: by deadline, with who sees to it, and how it ends. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const query = reactive({
  state: 'open' as 'open' | 'resolved',
  reason: '' as DisputeReason | '',
  owner: '',
  search: '',
  customer: String(route.query.customer ?? ''),
  sort: 'deadline' as 'deadline' | 'age' | 'amount' | 'customer',
})
const { rows, answer, loading, trouble, more, reload } = usePages<
  DisputeRow,
  Awaited<ReturnType<typeof read>>
>(read, [() => ({ ...query })], 120)
function read(cursor: string | undefined) {
  return call(contract.disputes.list, {
    query: {
      state: query.state,
      reason: query.reason || undefined,
      owner: query.owner || undefined,
      search: query.search || undefined,
      customer: query.customer || undefined,
      sort: query.sort,
      limit: 60,
      cursor,
    },
  })
}
const current = ref<DisputeRow | null>(null)
const panel = ref<{ begin: (how: 'credited' | 'settled' | 'written-off' | 'upheld') => void } | null>(null)
const summing = ref(false)
const may = computed(
  () => current.value?.resolution === '' && current.value.waiting === null && session.can('chase.keep'),
)
useKeys([
  {
    key: 'a',
    label: 'Ages, and how long each takes',
    run: () => {
      summing.value = !summing.value
    },
  },
  ...(['credited', 'settled', 'written-off', 'upheld'] as const).map((how, n) => ({
    key: ['c', 'p', 'w', 'u'][n]!,
    label: ['Credit it', 'Credit a part', 'Write it off', 'Uphold it'][n]!,
    when: () => may.value,
    run: () => panel.value?.begin(how),
  })),
])
async function changed(): Promise<void> {
  await Promise.all([reload(), desk.refresh()])
}
const STATES = { open: 'Open', resolved: 'Resolved' } as const
const columns = computed(() => [
  { key: 'name', label: 'Customer', sort: 'customer', cut: true },
  { key: 'reason', label: 'Reason', width: 116 },
  { key: 'items', label: 'Items', width: 120, gives: 2 },
  { key: 'owner', label: 'Sees to it', width: 100, gives: 1 },
  query.state === 'open'
    ? { key: 'deadline', label: 'Until', sort: 'deadline', width: 96 }
    : { key: 'resolved', label: 'Ended', width: 150 },
  { key: 'age', label: 'Days', num: true, sort: 'age', width: 52 },
  {
    key: 'left',
    label: `Disputed, ${answer.value?.totals.base ?? session.base}`,
    num: true,
    sort: 'amount',
    width: 110,
  },
])
</script>

<template>
  <PartsHead v-model="query.state" title="Disputes" :parts="STATES">
    <button class="plain ml-auto" @click="summing = !summing">
      {{ summing ? 'Back to the list' : 'Ages and how long' }} <kbd>A</kbd>
    </button>
  </PartsHead>
  <DisputeAges v-if="summing" @reason="r => ((query.reason = r), (summing = false))" />
  <template v-else>
    <div class="filters">
      <FindField
        v-model="query.search"
        class="w-[170px]"
        placeholder="Customer, item or words"
        label="Find a dispute"
      />
      <span
        ><label class="label" for="of-reason">Reason </label
        ><select id="of-reason" v-model="query.reason" class="field">
          <option value="">any</option>
          <option v-for="r in REASON_CODES" :key="r" :value="r">{{ DISPUTE_REASONS[r] }}</option>
        </select></span
      >
      <label class="flex min-h-6 items-center gap-1.5"
        ><input
          type="checkbox"
          class="tick"
          :checked="Boolean(query.owner)"
          @change="query.owner = query.owner ? '' : session.session!.person.email"
        />
        mine</label
      >
      <span v-if="query.customer" class="text-soft"
        >of {{ query.customer }}
        <button class="plain !py-0" @click="query.customer = ''">all customers</button></span
      >
    </div>
    <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
    <SheetTable
      v-model:sort="query.sort"
      :columns="columns"
      :rows="rows"
      :row-key="r => r.id"
      :more="Boolean(answer?.next)"
      :loading="loading"
      label="Disputes"
      @more="more"
      @cursor="
        r => {
          current = r
          desk.choose(r.customer.number)
        }
      "
      @open="r => navigateTo(`/accounts/${encodeURIComponent(r.customer.number)}`)"
    >
      <template #cell-name="{ row }"
        ><span class="name">{{ row.customer.name }}</span
        ><span v-if="row.waiting" class="aside ml-1.5">waits for a signature</span></template
      >
      <template #cell-reason="{ row }">{{ DISPUTE_REASONS[row.reason] }}</template>
      <template #cell-items="{ row }">{{
        row.items.length === 1 ? row.items[0]!.number : plural(row.items.length, 'item')
      }}</template>
      <template #cell-owner="{ row }">{{ row.owner.name.split(' ')[0] }}</template>
      <template #cell-deadline="{ row }"
        ><span :class="row.deadline < session.today ? 'wrong' : ''">{{
          dateText(row.deadline)
        }}</span></template
      >
      <template #cell-resolved="{ row }"
        >{{ row.resolution }} <span class="aside">{{ dateText(row.resolved?.on) }}</span></template
      >
      <template #cell-age="{ row }">{{ row.age }}</template>
      <template #cell-left="{ row }"
        ><Figure v-if="query.state === 'open'" :amount="row.baseLeft" :currency="session.base" /><Figure
          v-else
          :amount="row.amount"
          :currency="row.currency"
      /></template>
      <template #foot="{ columns: shown }"
        ><tr v-if="answer">
          <td v-for="(c, n) in shown ?? columns" :key="c.key" :class="c.num ? 'num' : ''">
            <template v-if="n === 0"
              >{{ plural(answer.totals.count, 'dispute')
              }}<span v-if="answer.totals.late" class="wrong ml-3"
                >{{ answer.totals.late }} over their day</span
              ></template
            ><Figure
              v-else-if="c.key === 'left' && query.state === 'open'"
              :amount="answer.totals.left"
              :currency="answer.totals.base"
              zero
            />
          </td></tr
      ></template>
      <template #empty>{{
        query.state === 'open' ? 'Nothing is disputed.' : 'No dispute was resolved yet.'
      }}</template>
    </SheetTable>
    <DisputePanel v-if="current" ref="panel" :row="current" :may="may" @changed="changed" />
  </template>
</template>
