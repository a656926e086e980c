<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import type { BatchRow } from '~~/contract/receipts/batches'
import { useKeys } from '~/composables/keys'
import { usePages } from '~/composables/pages'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText } from '~/utils/format'

definePageMeta({ noCard: true })
/** Batches of receipts: keyed against control figures, posted when they are closed. */
const session = useSession()
const { rows, answer, loading, trouble, more, reload } = usePages<BatchRow, Awaited<ReturnType<typeof read>>>(
  read,
  [],
)
function read(cursor: string | undefined) {
  return call(contract.batches.list, { query: { limit: 100, cursor } })
}
const mine = computed(() => rows.value.find(r => r.mine && r.state === 'open') ?? null)
const form = reactive({
  currency: session.base,
  date: session.today,
  text: '',
  controlTotal: null as number | null,
  controlCount: null as number | null,
})
const said = ref('')
const current = ref<BatchRow | null>(null)
const field = ref<{ $el: HTMLInputElement } | null>(null)
async function open(): Promise<void> {
  if (mine.value) {
    await navigateTo(`/receipts/batches/${mine.value.id}`)
    return
  }
  try {
    const made = await call(contract.batches.open, {
      body: { ...form, controlCount: form.controlCount || null },
    })
    await navigateTo(`/receipts/new?batch=${made.id}`)
  } catch (error) {
    said.value = problemText(error)
    await reload()
  }
}
const currencies = computed(() => [...new Set([session.base, ...(session.settings?.currencies ?? [])])])
useKeys([
  {
    key: 'o',
    label: 'Open a batch',
    when: () => session.can('receipts.post'),
    run: () => {
      if (mine.value) void open()
      else field.value?.$el.focus()
    },
  },
  {
    key: 'p',
    label: 'Print the register',
    when: () => current.value?.state === 'closed',
    run: () => {
      window.open(urlOf(contract.batches.register, { id: current.value!.id }), '_blank')
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Batches</h1>
    <span class="text-soft">Receipts keyed against a control total; closing posts them.</span
    ><NuxtLink v-if="mine" class="go ml-auto !py-1.5" :to="`/receipts/batches/${mine.id}`"
      >Your open batch <kbd class="!bg-transparent !text-on-accent opacity-80">O</kbd></NuxtLink
    >
  </div>
  <form v-if="session.can('receipts.post') && !mine && !loading" class="filters" @submit.prevent="open">
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="total">Control total</label
      ><MoneyField
        id="total"
        ref="field"
        v-model="form.controlTotal"
        :currency="form.currency"
        label="Control total"
        placeholder="none"
    /></span>
    <span
      ><label class="label" for="in">in </label
      ><select id="in" v-model="form.currency" class="field">
        <option v-for="c in currencies" :key="c" :value="c">{{ c }}</option>
      </select></span
    >
    <span
      ><label class="label" for="count">Count </label
      ><input
        id="count"
        v-model.number="form.controlCount"
        type="number"
        min="1"
        class="field w-14"
        placeholder="none"
    /></span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="on">dated</label
      ><DateField
        id="on"
        v-model="form.date"
        label="Date of the batch"
        :today="session.today"
        :max="session.today"
    /></span>
    <input
      v-model="form.text"
      class="field w-[170px]"
      placeholder="What it is (optional)"
      aria-label="What the batch is"
      maxlength="120"
    />
    <button class="go !py-1.5" data-test="open">
      Open a batch <kbd class="!bg-transparent !text-on-accent opacity-80">O</kbd>
    </button>
  </form>
  <p v-if="trouble || said" class="wrong px-[18px] pb-2" role="alert">{{ trouble || said }}</p>
  <SheetTable
    :columns="[
      { key: 'number', label: 'Batch', width: 90 },
      { key: 'date', label: 'Dated', width: 100 },
      { key: 'text', label: 'What', cut: true },
      { key: 'by', label: 'By', width: 130 },
      { key: 'count', label: 'Receipts', num: true, width: 80 },
      { key: 'total', label: 'Total', num: true, width: 140 },
      { key: 'go', label: 'To go', num: true, width: 120 },
      { key: 'print', label: '', width: 60 },
    ]"
    :rows="rows"
    :row-key="r => r.id"
    :more="Boolean(answer?.next)"
    :loading="loading"
    label="Batches"
    @more="more"
    @cursor="
      r => {
        current = r
      }
    "
    @open="r => navigateTo(`/receipts/batches/${r.id}`)"
  >
    <template #cell-number="{ row }"
      ><NuxtLink class="makes font-semibold" tabindex="-1" :to="`/receipts/batches/${row.id}`">{{
        row.number ?? 'open'
      }}</NuxtLink></template
    >
    <template #cell-date="{ row }">{{ dateText(row.date) }}</template><template #cell-text="{ row }">{{
      row.text
    }}</template
    ><template #cell-by="{ row }">{{ row.by }}</template>
    <template #cell-count="{ row }"
      >{{ row.count
      }}<span v-if="row.controlCount !== null" class="aside"> of {{ row.controlCount }}</span></template
    >
    <template #cell-total="{ row }"
      ><Figure :amount="row.total" :currency="row.currency" zero /><span class="aside ml-1">{{
        row.currency
      }}</span></template
    >
    <template #cell-go="{ row }"
      ><template v-if="row.toGo !== null"
        ><Figure :amount="row.toGo" :currency="row.currency" zero /></template
      ><span v-else class="none">·</span></template
    >
    <template #cell-print="{ row }"
      ><a
        v-if="row.state === 'closed'"
        class="makes text-accent"
        tabindex="-1"
        :href="urlOf(contract.batches.register, { id: row.id })"
        target="_blank"
        @click.stop
        >print</a
      ></template
    >
    <template #empty
      >No batch yet. Add up the cheques in your hand, type the sum as control total and open one.</template
    >
  </SheetTable>
  <p v-if="rows.some(r => r.state === 'open' && !r.mine)" class="hint border-t border-rule px-[18px] py-2">
    {{
      rows
        .filter(r => r.state === 'open' && !r.mine)
        .map(r => `${r.by} has a batch open, ${amountText(r.total, r.currency, true)}`)
        .join('; ')
    }}. The day cannot close before it is.
  </p>
</template>
