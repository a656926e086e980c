<script setup lang="ts">
import { computed, reactive, ref, shallowRef } from 'vue'
import { contract } from '~~/contract'
import type { BatchDetail } from '~~/contract/receipts/batches'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { dateText, plural, timeText } from '~/utils/format'
import { fill, settle } from '~/utils/fill'

/** One batch: its receipts, the difference to the control figures, and closing. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = Number(route.params.id)
const batch = shallowRef<BatchDetail | null>(null)
const trouble = ref('')
const busy = ref(false)
const changing = ref(false)
const dropping = ref(false)
const form = reactive({
  text: '',
  date: '',
  controlTotal: null as number | null,
  controlCount: null as number | null,
})
type Row = BatchDetail['receipts'][number]
const current = shallowRef<Row | null>(null)
async function guard(what: () => Promise<void>): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    await what()
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
    await fill(batch, () => call(contract.batches.detail, { params: { id } }).catch(() => batch.value))
  } finally {
    busy.value = false
  }
}
const load = () =>
  guard(async () => {
    await fill(batch, () => call(contract.batches.detail, { params: { id } }))
  })
void load()
const isOpen = computed(() => batch.value?.state === 'open')
const mayEdit = computed(() =>
  Boolean(isOpen.value && session.can('receipts.post') && (batch.value!.mine || session.can('policy.edit'))),
)
const off = computed(() => {
  const b = batch.value
  if (!b?.count) return 'key the first receipt'
  if (b.toGo) return 'the control total is not reached'
  if (b.countToGo) return 'the control count is not reached'
  return ''
})
function change(): void {
  Object.assign(form, {
    text: batch.value!.text,
    date: batch.value!.date,
    controlTotal: batch.value!.controlTotal,
    controlCount: batch.value!.controlCount,
  })
  changing.value = true
}
const save = () =>
  guard(async () => {
    await settle(batch, () =>
      call(contract.batches.change, {
        params: { id },
        body: {
          ...form,
          controlCount: form.controlCount || null,
          currency: batch.value!.currency,
          version: batch.value!.version,
        },
      }),
    )
    changing.value = false
  })
const remove = (row: Row) =>
  guard(async () => {
    await settle(batch, () => call(contract.batches.remove, { params: { id, receipt: row.id } }))
  })
const close = () =>
  guard(async () => {
    if (off.value) return
    await settle(batch, () =>
      call(contract.batches.close, {
        params: { id },
        body: { version: batch.value!.version },
      }),
    )
    await desk.refresh()
    desk.say({
      text: `${batch.value!.number} closed, ${plural(batch.value!.count, 'receipt')} posted.`,
      to: urlOf(contract.batches.register, { id }),
      action: 'Print the register',
    })
  })
const drop = () =>
  guard(async () => {
    await call(contract.batches.drop, { params: { id } })
    await navigateTo('/receipts/batches')
    desk.say({ text: 'Batch deleted; nothing of it was posted.' })
  })
const edit = (row: Row) =>
  navigateTo(
    isOpen.value
      ? `/receipts/new?batch=${id}&customer=${encodeURIComponent(row.customer.number)}&edit=${row.id}`
      : `/receipts/${row.receipt!.id}`,
  )
useKeys([
  {
    key: 'k',
    label: 'Key the next receipt',
    when: () => mayEdit.value,
    run: () => navigateTo(`/receipts/new?batch=${id}`),
  },
  {
    key: 'Delete',
    label: 'Take the receipt out',
    when: () => mayEdit.value && current.value !== null,
    run: () => {
      void remove(current.value!)
    },
  },
  { key: 'e', label: 'Change the control figures', when: () => mayEdit.value, run: change },
  {
    key: 'p',
    label: 'Print the register',
    when: () => batch.value?.state === 'closed',
    run: () => {
      window.open(urlOf(contract.batches.register, { id }), '_blank')
    },
  },
  {
    key: 'Ctrl+Enter',
    label: 'Close the batch',
    when: () => mayEdit.value,
    run: () => {
      void close()
    },
  },
])
</script>

<template>
  <p v-if="trouble" class="wrong px-[18px] pt-3" role="alert">{{ trouble }}</p>
  <template v-if="batch">
    <div class="sheet-head">
      <h1>{{ batch.number ? `Batch ${batch.number}` : `Batch of ${dateText(batch.date)}` }}</h1>
      <span class="text-soft"
        >{{ batch.text }}{{ batch.text ? ', ' : '' }}{{ batch.by
        }}<template v-if="batch.closedAt">, closed {{ timeText(batch.closedAt) }}</template></span
      >
      <span class="ml-auto flex items-baseline gap-4">
        <NuxtLink v-if="mayEdit" class="go !py-1.5" :to="`/receipts/new?batch=${id}`"
          >Key a receipt <kbd class="!bg-transparent !text-on-accent opacity-80">K</kbd></NuxtLink
        >
        <button v-if="mayEdit && !dropping" class="plain" @click="dropping = true">Delete</button
        ><template v-if="dropping"
          ><span>Delete the whole batch?</span><button class="plain" @click="drop">Yes</button
          ><button class="hint" @click="dropping = false">No</button></template
        >
        <a
          v-if="batch.state === 'closed'"
          class="plain"
          :href="urlOf(contract.batches.register, { id })"
          target="_blank"
          >Register <kbd>P</kbd></a
        >
      </span>
    </div>
    <form v-if="changing" class="filters" @submit.prevent="save">
      <span class="flex items-baseline gap-1.5"
        ><label class="label" for="total">Control total</label
        ><MoneyField
          id="total"
          v-model="form.controlTotal"
          v-focus
          :currency="batch.currency"
          label="Control total"
          placeholder="none" /></span
      ><span
        ><label class="label" for="count">Count </label
        ><input
          id="count"
          v-model.number="form.controlCount"
          type="number"
          min="1"
          class="field w-14" /></span
      ><span class="flex items-baseline gap-1.5"
        ><label class="label" for="on">dated</label
        ><DateField
          id="on"
          v-model="form.date"
          label="Date of the batch"
          :today="session.today"
          :max="session.today" /></span
      ><input
        v-model="form.text"
        class="field w-[180px]"
        aria-label="What the batch is"
        maxlength="120"
      /><button class="plain">Save</button
      ><button type="button" class="hint" @click="changing = false">Leave</button>
    </form>
    <dl v-else class="flex flex-wrap gap-x-9 border-t border-rule px-[18px] py-2">
      <div>
        <dt class="label">Keyed</dt>
        <dd class="font-serif text-[19px]">
          <Figure :amount="batch.total" :currency="batch.currency" zero />
          {{ ' ' }}
          <span class="aside">{{ plural(batch.count, 'receipt') }}</span>
        </dd>
      </div>
      <div v-if="batch.controlTotal !== null">
        <dt class="label">Control total</dt>
        <dd class="font-serif text-[19px]">
          <Figure :amount="batch.controlTotal" :currency="batch.currency" /><span
            v-if="batch.controlCount !== null"
            class="aside ml-1.5"
            >{{ plural(batch.controlCount, 'receipt') }}</span
          >
        </dd>
      </div>
      <div v-if="batch.toGo !== null || batch.countToGo !== null">
        <dt class="label">To go</dt>
        <dd
          class="font-serif text-[19px]"
          :class="batch.toGo || batch.countToGo ? '' : 'text-accent'"
          data-test="to-go"
        >
          <template v-if="batch.toGo !== null"
            ><Figure :amount="batch.toGo" :currency="batch.currency" zero /></template
          ><span v-if="batch.countToGo !== null" class="aside ml-1.5">{{
            plural(batch.countToGo, 'receipt')
          }}</span>
        </dd>
      </div>
      <button v-if="mayEdit" class="plain self-end !py-0.5" @click="change">Change <kbd>E</kbd></button>
    </dl>
    <SheetTable
      :columns="[
        { key: 'customer', label: 'Customer', cut: true },
        { key: 'means', label: 'By', width: 90 },
        { key: 'reference', label: 'Number', width: 120, cut: true },
        { key: 'items', label: 'For', cut: true, width: 190 },
        { key: 'account', label: 'On account', num: true, width: 110 },
        { key: 'amount', label: 'Amount', num: true, width: 120 },
        { key: 'do', label: '', width: 96 },
      ]"
      :rows="batch.receipts"
      :row-key="r => r.id"
      label="Receipts of the batch"
      @cursor="
        r => {
          current = r
          desk.choose(r.customer.number)
        }
      "
      @open="edit"
    >
      <template #cell-customer="{ row }"
        ><span class="name">{{ row.customer.name }}</span></template
      ><template #cell-means="{ row }">{{ row.means }}</template
      ><template #cell-reference="{ row }">{{ row.reference }}</template>
      <template #cell-items="{ row }">{{ row.items.join(', ') || 'on account' }}</template>
      <template #cell-account="{ row }"
        ><Figure :amount="row.onAccount" :currency="batch.currency" /></template
      ><template #cell-amount="{ row }"><Figure :amount="row.amount" :currency="batch.currency" /></template>
      <template #cell-do="{ row }"
        ><NuxtLink
          v-if="row.receipt"
          class="makes text-accent"
          tabindex="-1"
          :to="`/receipts/${row.receipt.id}`"
          >{{ row.receipt.number }}</NuxtLink
        ><template v-else-if="mayEdit"
          ><button class="makes mr-2 text-accent" tabindex="-1" @click.stop="edit(row)">change</button
          ><button
            class="makes text-accent"
            tabindex="-1"
            :aria-label="`Take ${row.customer.name} out`"
            @click.stop="remove(row)"
          >
            out
          </button></template
        ></template
      >
      <template #foot
        ><tr>
          <td colspan="4">{{ plural(batch.count, 'receipt') }}</td>
          <td class="num">
            <Figure
              :amount="batch.receipts.reduce((a, r) => a + r.onAccount, 0)"
              :currency="batch.currency"
            />
          </td>
          <td class="num"><Figure :amount="batch.total" :currency="batch.currency" zero /></td>
          <td /></tr
      ></template>
      <template #empty
        >Nothing keyed yet.
        <NuxtLink v-if="mayEdit" class="plain" :to="`/receipts/new?batch=${id}`"
          >Key the first receipt</NuxtLink
        ></template
      >
    </SheetTable>
    <section
      v-if="mayEdit"
      class="flex items-center gap-6 border-t-2 border-ink px-[18px] py-3"
      aria-label="Close the batch"
    >
      <p class="text-soft">
        Closing posts {{ plural(batch.count, 'receipt') }} at once: cheques and cash to
        <b class="font-semibold text-ink">Receipts on hand</b>, transfers and cards to
        <b class="font-semibold text-ink">Receipts in clearing</b>, and gives the register. Until then nothing
        is in the ledger.
      </p>
      <span class="ml-auto flex flex-col items-end gap-1"
        ><button class="go" data-test="close" :disabled="Boolean(off) || busy" @click="close">
          Close the batch <span class="font-normal opacity-70">Ctrl ↵</span></button
        ><span v-if="off" class="text-soft">{{ off.charAt(0).toUpperCase() + off.slice(1) }}</span></span
      >
    </section>
  </template>
</template>
