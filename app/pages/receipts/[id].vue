<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ReceiptDetail } from '~~/contract/receipts'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { isReceived } from '~/utils/format'
import { fill } from '~/utils/fill'

const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = computed(() => Number(route.params.id))
const receipt = ref<ReceiptDetail | null>(null)
const trouble = ref('')
const doing = ref<'unallocate' | 'reverse' | 'right' | null>(null)
const fee = ref<number | null>(null)
const right = reactive({
  customer: '',
  customerName: '',
  date: '',
  means: [] as { amount: number | null; reference: string }[],
})
const moving = ref(false)
const picked = ref<number[]>([])
const date = ref(session.today)
const reason = ref('')
const busy = ref(false)
let key = crypto.randomUUID()
async function load(): Promise<void> {
  try {
    await fill(receipt, () => call(contract.receipts.detail, { params: { id: id.value } }))
    if (receipt.value) await desk.choose(receipt.value.customer.number)
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
watch(
  id,
  async () => {
    await load()
    if (route.query.do === 'reverse' && !receipt.value?.reversed) begin('reverse')
  },
  { immediate: true },
)
const live = computed(
  () =>
    receipt.value?.links.filter(
      l => !l.undone && l.undoes === null && l.kind !== 'reversal' && isReceived(l.creditKind),
    ) ?? [],
)
function begin(what: 'unallocate' | 'reverse' | 'right'): void {
  doing.value = what
  picked.value = live.value.map(l => l.allocationId)
  reason.value = ''
  date.value = session.today
  fee.value = null
  moving.value = false
  const r = receipt.value
  if (r)
    Object.assign(right, {
      customer: r.customer.number,
      customerName: r.customer.name,
      date: r.date,
      means: r.meansLines.map(m => ({ amount: m.amount, reference: m.reference })),
    })
}
const reversal = computed(() => ({
  date: date.value,
  reason: reason.value || 'reason to follow',
  fee: fee.value ?? 0,
}))
/** Only what differs is asked to be put right. */
const correction = computed(() => {
  const r = receipt.value
  const means = right.means.map((m, i) => ({
    ...(m.amount !== r?.meansLines[i]?.amount && m.amount ? { amount: m.amount } : {}),
    ...(m.reference !== r?.meansLines[i]?.reference ? { reference: m.reference } : {}),
  }))
  return {
    reason: reason.value || 'reason to follow',
    ...(right.customer !== r?.customer.number ? { customer: right.customer } : {}),
    ...(right.date !== r?.date ? { date: right.date } : {}),
    ...(means.some(m => Object.keys(m).length) ? { means } : {}),
  }
})
const changed = computed(() => Object.keys(correction.value).length > 1)
const unallocation = computed(() => ({
  customer: receipt.value?.customer.number ?? '',
  date: date.value,
  allocationIds: picked.value,
  reason: reason.value,
}))
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(() => {
  if (doing.value === 'reverse')
    return call(contract.receipts.previewReverse, { params: { id: id.value }, body: reversal.value })
  if (doing.value === 'right' && changed.value)
    return call(contract.receipts.previewPutRight, { params: { id: id.value }, body: correction.value })
  if (doing.value === 'unallocate' && picked.value.length)
    return call(contract.receipts.previewUnallocate, { body: unallocation.value })
  return null
}, [doing, reversal, unallocation, correction])
const off = computed(() => {
  if (doing.value === 'reverse' && !reason.value.trim()) return 'say why it is reversed'
  if (doing.value === 'unallocate' && !picked.value.length) return 'choose what to undo'
  if (doing.value === 'right' && !changed.value) return 'change what was wrong'
  if (doing.value === 'right' && !reason.value.trim()) return 'say why'
  return proofTrouble.value
})
async function post(): Promise<void> {
  if (off.value || busy.value || !ready.value) return
  busy.value = true
  try {
    if (doing.value === 'reverse') {
      await call(contract.receipts.reverse, { params: { id: id.value }, body: reversal.value, key })
      desk.say({ text: `${receipt.value!.number} reversed; what it paid is open again.` })
    } else if (doing.value === 'right') {
      const done = await call(contract.receipts.putRight, {
        params: { id: id.value },
        body: correction.value,
        key,
      })
      key = crypto.randomUUID()
      doing.value = null
      await desk.refresh()
      await navigateTo(`/receipts/${done.receipt!.id}`)
      desk.say({ text: `${receipt.value!.number} put right as ${done.receipt!.number}.` })
      return
    } else {
      await call(contract.receipts.unallocate, { body: unallocation.value, key })
      desk.say({
        text: `Unallocated; ${receipt.value!.number} has money on account.`,
        to: `/receipts/new?customer=${encodeURIComponent(receipt.value!.customer.number)}&credit=${id.value}`,
        action: 'Allocate it anew',
      })
    }
    key = crypto.randomUUID()
    doing.value = null
    await load()
    await desk.refresh()
  } catch (error) {
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
/** What is asked for as reason; taking an allocation back needs none. */
const WHY = {
  reverse: 'Why: keyed in error, cheque returned …',
  right: 'Why: keyed to the wrong account …',
  unallocate: 'Why (optional)',
}
const toggle = (a: number) => {
  picked.value = picked.value.includes(a) ? picked.value.filter(p => p !== a) : [...picked.value, a]
}
useKeys([
  {
    key: 'u',
    label: 'Unallocate',
    when: () => session.can('receipts.correct') && live.value.length > 0,
    run: () => begin('unallocate'),
  },
  {
    key: 'r',
    label: 'Reverse the receipt',
    when: () => session.can('receipts.correct') && !receipt.value?.reversed,
    run: () => begin('reverse'),
  },
  {
    key: 'c',
    label: 'Put right: customer, date, reference, amount',
    when: () =>
      session.can('receipts.correct') && receipt.value?.kind === 'receipt' && !receipt.value.reversed,
    run: () => begin('right'),
  },
  {
    key: 'l',
    label: 'Allocate what is on account',
    when: () => (receipt.value?.unallocated ?? 0) > 0 && session.can('receipts.post'),
    run: () =>
      navigateTo(
        `/receipts/new?customer=${encodeURIComponent(receipt.value!.customer.number)}&credit=${id.value}`,
      ),
  },
  {
    key: 'Ctrl+Enter',
    label: 'Post the correction',
    inFields: true,
    when: () => doing.value !== null,
    run: () => {
      void post()
    },
  },
  {
    key: 'Escape',
    label: 'Leave the correction',
    inFields: true,
    when: () => doing.value !== null,
    run: () => {
      doing.value = null
    },
  },
])
</script>

<template>
  <p v-if="trouble" class="wrong p-[18px]" role="alert">{{ trouble }}</p>
  <template v-if="receipt">
    <div class="sheet-head">
      <h1>
        {{ receipt.number }} from
        <NuxtLink class="makes" :to="`/accounts/${receipt.customer.number}`">{{
          receipt.customer.name
        }}</NuxtLink>
      </h1>
      <span :class="receipt.state === 'reversed' ? 'wrong' : 'text-soft'" data-test="state"
        >{{ receipt.kind === 'advance' ? 'advance, ' : ''
        }}{{
          {
            tray: 'in the tray',
            covered: 'covered: posted, the bank has not shown it yet',
            settled: 'settled: the bank shows it',
            'partly settled': 'partly settled',
            reversed: 'reversed',
          }[receipt.state]
        }}</span
      >
      <span class="ml-auto flex gap-4">
        <NuxtLink
          v-if="receipt.unallocated && session.can('receipts.post')"
          class="plain"
          :to="`/receipts/new?customer=${encodeURIComponent(receipt.customer.number)}&credit=${id}`"
          >Allocate the rest <kbd>L</kbd></NuxtLink
        >
        <button
          v-if="live.length && session.can('receipts.correct')"
          class="plain"
          @click="begin('unallocate')"
        >
          Unallocate <kbd>U</kbd>
        </button>
        <button
          v-if="!receipt.reversed && receipt.kind === 'receipt' && session.can('receipts.correct')"
          class="plain"
          data-test="right"
          @click="begin('right')"
        >
          Put right <kbd>C</kbd>
        </button>
        <button
          v-if="!receipt.reversed && session.can('receipts.correct')"
          class="plain"
          data-test="reverse"
          @click="begin('reverse')"
        >
          Reverse <kbd>R</kbd>
        </button>
      </span>
    </div>
    <ReceiptFacts :receipt="receipt" />
    <ReceiptLinks
      :receipt="receipt"
      :undoable="doing === 'unallocate' ? live.map(l => l.allocationId) : null"
      :picked="picked"
      @toggle="toggle"
    />
    <template v-if="doing">
      <form class="filters" @submit.prevent="post">
        <b class="font-semibold">{{
          doing === 'reverse' ? 'Reverse the receipt' : doing === 'right' ? 'Put right' : 'Unallocate'
        }}</b>
        <template v-if="doing === 'right'"
          ><span v-if="!moving"
            >paid by <b class="name">{{ right.customerName }}</b>
            {{ ' ' }}
            <button type="button" class="plain !py-0" data-test="move" @click="moving = true">
              another
            </button></span
          ><CustomerPicker
            v-else
            @pick="
              (n, name) => {
                right.customer = n
                right.customerName = name
                moving = false
              }
            " />
          <span class="flex items-baseline gap-1.5"
            ><label class="label" for="right-date">on</label
            ><DateField
              id="right-date"
              v-model="right.date"
              label="Paid on"
              :today="session.today"
              :max="session.today"
          /></span>
          <span v-for="(m, n) in right.means" :key="n" class="flex items-baseline gap-1.5"
            ><MoneyField
              v-model="m.amount"
              :currency="receipt.currency"
              :label="`Amount by ${receipt.meansLines[n]!.means}`" /><input
              v-model="m.reference"
              class="field w-[130px]"
              :aria-label="`Reference of ${receipt.meansLines[n]!.means}`"
              placeholder="reference"
              maxlength="80" /></span
        ></template>
        <span v-else class="flex items-baseline gap-1.5"
          ><label class="label" for="on">on</label
          ><DateField
            id="on"
            v-model="date"
            label="Date of the correction"
            :today="session.today"
            :max="session.today"
        /></span>
        <input
          v-model="reason"
          v-focus
          class="field w-[260px]"
          :placeholder="WHY[doing]"
          aria-label="Reason"
          maxlength="200"
        />
        <span v-if="doing === 'reverse'" class="flex items-baseline gap-1.5"
          ><label class="label" for="fee">bank fee charged on</label
          ><MoneyField
            id="fee"
            v-model="fee"
            :currency="receipt.currency"
            label="Bank fee charged on"
            placeholder="none"
        /></span>
        <span class="hint">{{
          doing === 'right'
            ? 'The wrong receipt is reversed and the right one posted; links stay unless the customer changes.'
            : doing === 'reverse'
              ? 'Everything it paid is open again at its due date. The history keeps both.'
              : 'The money is on account again, the items are open at their due dates.'
        }}</span>
        <button type="button" class="hint" @click="doing = null">Leave <kbd>Esc</kbd></button>
      </form>
      <ProofStrip
        :proof="proof"
        :reason="off"
        :busy="busy || pending"
        :verb="doing === 'reverse' ? 'Reverse' : doing === 'right' ? 'Put right' : 'Unallocate'"
        :labels="session.settings?.buckets.map(b => b.label) ?? []"
        @post="post"
      />
    </template>
  </template>
</template>
