<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { RateRow } from '~~/contract/rates'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { ApiProblem, call, problemText } from '~/utils/api'
import { dateText, timeText, rateText } from '~/utils/format'

definePageMeta({ noCard: true })
/** The rates that postings in other currencies take; without one a posting is refused. */
const desk = useDesk()
const session = useSession()
const may = computed(() => session.can('policy.edit'))
const only = ref('')
const { rows, answer, loading, trouble, more, reload } = usePages<RateRow, Awaited<ReturnType<typeof read>>>(
  read,
  [only],
)
function read(cursor: string | undefined) {
  return call(contract.rates.list, { query: { currency: only.value || undefined, limit: 100, cursor } })
}
const SOURCES: Record<RateRow['source'], string> = {
  entered: 'entered',
  imported: 'imported',
  simulated: 'demo feed',
}
const form = reactive({ currency: '', date: session.today, rate: '' })
const said = ref('')
const faults = ref<string[]>([])
async function enter(): Promise<void> {
  try {
    const done = await call(contract.rates.enter, {
      body: { ...form, currency: form.currency.toUpperCase(), rate: form.rate.replace(',', '.') },
    })
    said.value = ''
    desk.say({ text: `${done.currency} at ${done.rate} from ${dateText(done.date)}.` })
    form.rate = ''
    await reload()
  } catch (error) {
    said.value = problemText(error)
  }
}
const picker = ref<HTMLInputElement | null>(null)
async function take(file: File | undefined): Promise<void> {
  if (!file) return
  try {
    const done = await call(contract.rates.import, { body: await file.text() })
    said.value = ''
    faults.value = []
    desk.say({ text: `${done.imported} rates imported.` })
    await reload()
  } catch (error) {
    said.value = problemText(error)
    faults.value =
      error instanceof ApiProblem ? (error.problem.errors ?? []).map(f => `${f.path}: ${f.message}`) : []
  }
}
const first = ref<HTMLInputElement | null>(null)
useKeys([
  { key: 'n', label: 'Enter a rate', when: () => may.value, run: () => first.value?.focus() },
  { key: 'o', label: 'Import a file', when: () => may.value, run: () => picker.value?.click() },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Exchange rates</h1>
    <span class="text-soft">{{ answer?.base ?? session.base }} for one unit</span>
    <span
      ><label class="label" for="only">Show </label
      ><select id="only" v-model="only" class="field">
        <option value="">all currencies</option>
        <option v-for="c in session.settings?.currencies ?? []" :key="c" :value="c">{{ c }}</option>
      </select></span
    >
    <span v-if="may" class="ml-auto"
      ><button class="plain" @click="picker?.click()">Import CSV <kbd>O</kbd></button
      ><input
        ref="picker"
        type="file"
        accept=".csv,.txt"
        class="sr-only"
        tabindex="-1"
        aria-label="File of rates"
        @change="
          $event => {
            void take(($event.target as HTMLInputElement).files?.[0])
            ;($event.target as HTMLInputElement).value = ''
          }
        "
    /></span>
  </div>
  <form
    v-if="may"
    class="flex flex-wrap items-baseline gap-x-5 gap-y-2 border-t border-rule px-[18px] py-2"
    @submit.prevent="enter"
  >
    <span
      ><label class="label" for="currency">Currency <kbd>N</kbd> </label
      ><input
        id="currency"
        ref="first"
        v-model="form.currency"
        class="field w-[60px] uppercase"
        maxlength="3"
        required
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="from">in force from</label
      ><DateField id="from" v-model="form.date" label="In force from" :today="session.today"
    /></span>
    <span
      ><label class="label" for="rate">{{ session.base }} for one </label
      ><input
        id="rate"
        v-model="form.rate"
        class="field w-[110px] text-right"
        inputmode="decimal"
        placeholder="1.1525"
        required
    /></span>
    <button class="go !py-1.5" data-test="enter">Keep the rate</button>
    <span class="hint">A rate holds for ten days, or until the next; what was posted keeps its own.</span>
  </form>
  <div v-if="trouble || said" class="px-[18px] py-1" role="alert">
    <p class="wrong">{{ trouble || said }}</p>
    <p v-for="f in faults.slice(0, 8)" :key="f" class="hint">{{ f }}</p>
  </div>
  <SheetTable
    :columns="[
      { key: 'date', label: 'In force from', width: 130 },
      { key: 'currency', label: 'Currency', width: 90 },
      { key: 'rate', label: `${session.base} for one`, num: true, width: 140 },
      { key: 'source', label: 'Source', width: 110 },
      { key: 'by', label: 'By', cut: true },
      { key: 'at', label: 'Kept', width: 160 },
    ]"
    :rows="rows"
    :row-key="r => `${r.currency} ${r.date}`"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Rates"
    @more="more"
  >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template>
    <template #cell-currency="{ row }">{{ row.currency }}</template>
    <template #cell-rate="{ row }">{{ rateText(row.rate) }}</template>
    <template #cell-source="{ row }"
      ><span class="text-soft">{{ SOURCES[row.source] }}</span></template
    >
    <template #cell-by="{ row }">{{ row.by ?? '' }}</template>
    <template #cell-at="{ row }"
      ><span class="text-soft">{{ timeText(row.at) }}</span></template
    >
    <template #empty
      >No rates yet. Enter one, or import a file with the columns date, currency, rate. Postings in
      {{ session.base }} need none.</template
    >
  </SheetTable>
</template>
