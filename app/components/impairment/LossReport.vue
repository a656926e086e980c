<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { LossGrouping, LossReport } from '~~/contract/impairment'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'

/** Losses of a time, by what one wants to know: why, whose, when, and who signed. */
const BY: Record<LossGrouping, string> = {
  reason: 'Reason',
  customer: 'Customer',
  class: 'Class',
  seller: 'Sales contact',
  month: 'Month',
  signer: 'Signed by',
}
const session = useSession()
const query = reactive({ by: 'reason' as LossGrouping, from: '', to: '' })
const answer = ref<LossReport | null>(null)
const loading = ref(false)
const trouble = ref('')
const asked = () => ({ by: query.by, from: query.from || undefined, to: query.to || undefined })
let last = 0

watch(
  query,
  async () => {
    const mine = ++last
    loading.value = true
    try {
      const found = await call(contract.impairment.report, { query: asked() })
      if (mine !== last) return
      answer.value = found
      query.from ||= found.from
      query.to ||= found.to
      trouble.value = ''
    } catch (error) {
      if (mine === last) trouble.value = problemText(error)
    } finally {
      if (mine === last) loading.value = false
    }
  },
  { immediate: true },
)
const rateText = (rate: number | null) => (rate === null ? '·' : `${rate.toFixed(2)} %`)
</script>

<template>
  <div class="filters">
    <span
      ><label class="label" for="losses-by">By </label
      ><select id="losses-by" v-model="query.by" class="field">
        <option v-for="(label, by) in BY" :key="by" :value="by">{{ label }}</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="losses-from">from</label
      ><DateField id="losses-from" v-model="query.from" label="From" :today="session.today" /><label
        class="label"
        for="losses-to"
        >to</label
      ><DateField id="losses-to" v-model="query.to" label="To" :today="session.today"
    /></span>
    <span class="ml-auto flex gap-4"
      ><a
        v-for="format in ['csv', 'xlsx'] as const"
        :key="format"
        class="plain"
        :href="urlOf(contract.impairment.reportFile, {}, { ...asked(), format })"
        >{{ format.toUpperCase() }}</a
      ></span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
  <SheetTable
    :columns="[
      { key: 'name', label: BY[query.by], cut: true },
      { key: 'count', label: 'Write-offs', num: true, width: 92 },
      { key: 'lost', label: 'Lost', num: true, width: 116 },
      { key: 'allowance', label: 'From allowance', num: true, width: 122, gives: 1 },
      { key: 'tax', label: 'Tax back', num: true, width: 100 },
      { key: 'recovered', label: 'Came back', num: true, width: 104 },
      { key: 'net', label: 'Net', num: true, width: 116 },
      { key: 'billed', label: 'Billed', num: true, width: 126, gives: 2 },
      { key: 'rate', label: 'Of billed', num: true, width: 84 },
    ]"
    :rows="answer?.groups ?? []"
    :row-key="g => g.key"
    :more="false"
    :loading="loading"
    label="Losses"
  >
    <template #cell-name="{ row }">{{ row.name }}</template>
    <template #cell-count="{ row }">{{ row.count }}</template>
    <template #cell-lost="{ row }"><Figure :amount="row.lost" :currency="answer!.base" /></template>
    <template #cell-allowance="{ row }"><Figure :amount="row.allowance" :currency="answer!.base" /></template>
    <template #cell-tax="{ row }"><Figure :amount="row.tax" :currency="answer!.base" /></template>
    <template #cell-recovered="{ row }"><Figure :amount="row.recovered" :currency="answer!.base" /></template>
    <template #cell-net="{ row }"
      ><b class="font-semibold"><Figure :amount="row.net" :currency="answer!.base" /></b
    ></template>
    <template #cell-billed="{ row }"
      ><Figure v-if="row.billed !== null" :amount="row.billed" :currency="answer!.base" /><template v-else
        >·</template
      ></template
    >
    <template #cell-rate="{ row }">{{ rateText(row.rate) }}</template>
    <template #foot="{ columns }"
      ><tr v-if="answer">
        <td v-for="c in columns" :key="c.key" :class="c.num ? 'num' : ''">
          <template v-if="c.key === 'name'">all, {{ answer.base }}</template
          ><template v-else-if="c.key === 'count'">{{ answer.total.count }}</template
          ><template v-else-if="c.key === 'rate'">{{ rateText(answer.total.rate) }}</template
          ><Figure v-else :amount="answer.total[c.key as 'lost' | 'tax'] ?? 0" :currency="answer.base" zero />
        </td></tr
    ></template>
    <template #empty>Nothing was lost in this time.</template>
  </SheetTable>
</template>
