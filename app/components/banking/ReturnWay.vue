<script setup lang="ts">
import { computed, ref, watch, watchEffect } from 'vue'
import { contract } from '~~/contract'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { call, problemText } from '~/utils/api'
import { MOST_KEPT } from '~~/core/banking/matching/kept'
import { amountText, dateText } from '~/utils/format'

/** The bank sends a receipt's money back. */
const props = defineProps<{ line: BankLineDetail | null; currency: string }>()
const action = defineModel<LineAction | null>('action')
const reason = defineModel<string>('reason')
type Receipt = Awaited<ReturnType<typeof find>>['items'][number]
const find = (search: string) => call(contract.receipts.list, { query: { search, limit: 50 } })
const receipts = ref<Receipt[]>([])
const returned = ref<number | null>(null)
const fee = ref<number | null>(null)
const trouble = ref('')

async function read(): Promise<void> {
  const { line } = props
  if (!line) return
  try {
    // By amount; and what the bank names, since it may have kept a charge.
    const words = [String(Math.abs(line.amount)), line.endToEndId].filter(Boolean)
    const found = (await Promise.all(words.map(find))).flatMap(({ items }) => items)
    const byId = new Map(found.filter(r => !r.reversed && isBack(r)).map(r => [r.id, r]))
    receipts.value = [...byId.values()]
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
watch(() => props.line, read, { immediate: true })
const keptOf = (r: Receipt): number => -(props.line?.amount ?? 0) - r.amount
const isBack = (r: Receipt): boolean => keptOf(r) >= 0 && keptOf(r) <= MOST_KEPT
const charge = computed(() => {
  const chosen = receipts.value.find(r => r.id === returned.value)
  return chosen ? keptOf(chosen) : 0
})
watchEffect(() => {
  action.value = returned.value
    ? {
        kind: 'return',
        itemId: returned.value,
        reason: props.line?.returnReason
          ? `Returned by the bank, reason ${props.line.returnReason}`
          : 'Returned unpaid by the bank',
        fee: fee.value ?? 0,
        charge: charge.value,
      }
    : null
  reason.value = trouble.value || (returned.value ? '' : 'choose what came back')
})
</script>

<template>
  <div class="flex flex-1 flex-col gap-3 px-[18px] py-3">
    <table v-if="receipts.length" class="max-w-[640px]">
      <tbody>
        <tr v-for="r in receipts" :key="r.id">
          <td class="h-8">
            <label class="flex items-center gap-2.5"
              ><input v-model="returned" type="radio" :value="r.id" /><span class="font-semibold">{{
                r.number
              }}</span></label
            >
          </td>
          <td>{{ dateText(r.date) }}</td>
          <td>
            <span class="name">{{ r.customer.name }}</span>
          </td>
          <td class="num"><Figure :amount="r.amount" :currency="currency" /></td>
          <td v-if="keptOf(r)" class="text-soft">the bank keeps {{ amountText(keptOf(r), currency) }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else class="hint">
      No receipt of {{ amountText(Math.abs(line?.amount ?? 0), currency) }} is there that the bank could send
      back.
    </p>
    <p>
      <label class="label" for="fee">Bank fee charged on to the customer </label
      ><MoneyField
        id="fee"
        v-model="fee"
        :currency="currency"
        label="Bank fee charged on"
        placeholder="none"
      />
    </p>
  </div>
</template>
