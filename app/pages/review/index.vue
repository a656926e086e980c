<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { ReviewAnswer, ReviewRow } from '~~/contract/review'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'
import { plural, proseText } from '~/utils/format'
import { probabilityText } from '~/utils/reviewText'

/** Accounts to be reviewed: how they pay, how likely they are to be late, what is suggested. */
const desk = useDesk()
const search = ref('')
const which = ref<'due' | 'all'>('due')
const aside = ref<'' | 'tested' | 'weights'>('')
const { rows, answer, loading, trouble, more, reload } = usePages<ReviewRow, ReviewAnswer>(
  cursor =>
    call(contract.review.list, {
      query: { search: search.value || undefined, which: which.value, limit: 100, cursor },
    }),
  [search, which],
  150,
)
const open = (r: ReviewRow) => navigateTo(`/review/${encodeURIComponent(r.customer.number)}`)
const toggle = (what: 'tested' | 'weights') => (aside.value = aside.value === what ? '' : what)
async function weighedAnew(): Promise<void> {
  aside.value = ''
  await reload()
}
useKeys([
  { key: 'w', label: 'Weights of the score', run: () => toggle('weights') },
  { key: 'h', label: 'How good the probabilities are', run: () => toggle('tested') },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Review</h1>
    <FindField v-model="search" class="w-[180px]" placeholder="Name or number" label="Filter" />
    <span
      ><label class="label" for="which">Show </label
      ><select id="which" v-model="which" class="field">
        <option value="due">due now</option>
        <option value="all">all accounts</option>
      </select></span
    >
    <span v-if="answer" class="text-soft">{{ plural(answer.due, 'account') }} due</span>
    <span class="ml-auto flex gap-4">
      <button
        v-if="answer?.model"
        class="plain"
        :aria-expanded="aside === 'tested'"
        @click="toggle('tested')"
      >
        How good it is <kbd>H</kbd>
      </button>
      <button class="plain" :aria-expanded="aside === 'weights'" @click="toggle('weights')">
        Weights <kbd>W</kbd>
      </button>
    </span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <p v-if="answer && !answer.model" class="hint px-[18px] pb-2">
    Probabilities are learnt from the ledger now: look again in a moment.
  </p>
  <ModelTested v-if="aside === 'tested' && answer?.model" :model="answer.model" />
  <WeightsForm v-if="aside === 'weights'" @saved="weighedAnew" />
  <SheetTable
    :columns="[
      { key: 'name', label: 'Account', cut: true },
      { key: 'why', label: 'Why now', cut: true },
      { key: 'score', label: 'Score', num: true, width: 62, title: '0 to 100, the higher the better' },
      {
        key: 'probability',
        label: 'Late within a year',
        num: true,
        width: 118,
        title: 'probability of more than 90 days late',
      },
      { key: 'class', label: 'Class', width: 74, title: 'risk class, and the one suggested' },
      { key: 'limit', label: 'Limit', num: true, width: 96, gives: 2 },
      { key: 'suggested', label: 'Suggested', num: true, width: 96, gives: 1 },
    ]"
    :rows="rows"
    :row-key="r => r.customer.number"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Accounts to review"
    @more="more"
    @cursor="r => desk.choose(r.customer.number)"
    @open="open"
  >
    <template #cell-name="{ row }"
      ><NuxtLink
        class="name makes"
        tabindex="-1"
        :to="`/review/${encodeURIComponent(row.customer.number)}`"
        >{{ row.customer.name }}</NuxtLink
      ></template
    ><template #cell-why="{ row }"
      ><span :title="proseText(row.due.join('; '))">{{
        proseText(row.due.join('; ')) || '·'
      }}</span></template
    ><template #cell-score="{ row }">{{ row.score === null ? '·' : Math.round(row.score) }}</template
    ><template #cell-probability="{ row }"
      ><span v-if="row.longLate" class="wrong">late now</span
      ><template v-else>{{
        row.probability === null ? '·' : probabilityText(row.probability)
      }}</template></template
    ><template #cell-class="{ row }"
      >{{ row.riskClass || '·'
      }}<span v-if="row.suggestion && row.suggestion.riskClass !== row.riskClass">
        → <b>{{ row.suggestion.riskClass }}</b></span
      ></template
    ><template #cell-limit="{ row }"
      ><Figure v-if="row.limit !== null" :amount="row.limit" :currency="row.currency" whole zero /><span
        v-else
        class="none"
        >·</span
      ><span v-if="row.limit !== null && row.currency !== answer?.base" class="aside ml-1">{{
        row.currency
      }}</span></template
    ><template #cell-suggested="{ row }"
      ><Figure
        v-if="row.suggestion"
        :amount="row.suggestion.limit"
        :currency="row.currency"
        whole
        zero
      /><span v-else class="none">·</span></template
    >
    <template #empty>{{
      which === 'due'
        ? 'No account is due for review. Show all accounts to look at any.'
        : 'No account found.'
    }}</template>
  </SheetTable>
</template>
