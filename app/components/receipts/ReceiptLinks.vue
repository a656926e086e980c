<script setup lang="ts">
import type { ReceiptDetail } from '~~/contract/receipts'
import { dateText, isReceived, kindText } from '~/utils/format'

/** What happened with a receipt: what it paid, what was taken back. `undoable`: links that may be ticked. */
defineProps<{
  receipt: ReceiptDetail
  undoable: readonly number[] | null
  picked: readonly number[]
}>()
const emit = defineEmits<{ toggle: [allocationId: number] }>()
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto">
    <h2 class="px-[18px] pb-1 pt-2">What happened here</h2>
    <table class="grid-table">
      <thead>
        <tr>
          <th v-if="undoable" class="w-8">Undo</th>
          <th>On</th>
          <th>What</th>
          <th>Due</th>
          <th class="num">Amount</th>
          <th>By</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td v-if="undoable" />
          <td>{{ dateText(receipt.date) }}</td>
          <td><b class="font-semibold">Received</b> {{ receipt.means }} {{ receipt.reference }}</td>
          <td />
          <td class="num"><Figure :amount="receipt.amount" :currency="receipt.currency" /></td>
          <td>{{ receipt.by }}</td>
        </tr>
        <tr
          v-for="l in receipt.links"
          :key="l.allocationId"
          :class="l.undone || l.undoes !== null ? 'text-faint' : ''"
        >
          <td v-if="undoable">
            <input
              v-if="undoable.includes(l.allocationId)"
              type="checkbox"
              class="tick"
              :checked="picked.includes(l.allocationId)"
              :aria-label="`Undo ${l.number}`"
              @change="emit('toggle', l.allocationId)"
            />
          </td>
          <td>{{ dateText(l.effective) }}</td>
          <td>
            <b class="font-semibold">{{
              l.kind === 'reversal'
                ? 'Reversed'
                : !isReceived(l.creditKind)
                  ? l.undoes !== null
                    ? `${kindText(l.creditKind)} taken back from`
                    : `${kindText(l.creditKind)} on`
                  : l.undoes !== null
                    ? 'Taken back from'
                    : 'Paid'
            }}</b>
            {{ ' ' }}
            <NuxtLink
              v-if="l.kind !== 'reversal'"
              class="makes"
              :to="`/accounts/${receipt.customer.number}?state=all&find=${l.number}`"
              >{{ l.number }}</NuxtLink><template v-else>
              by {{ l.number }}: {{ receipt.reversal?.reason }}</template
            >
            {{ ' ' }}
            <span v-if="l.kind !== 'reversal'" class="aside">{{ kindText(l.kind).toLowerCase() }}</span><span
              v-if="l.undone"
              class="aside"
            >
              undone later</span
            >
          </td>
          <td>{{ l.kind === 'reversal' ? '' : dateText(l.dueDate) }}</td>
          <td class="num">
            <Figure :amount="l.kind === 'reversal' ? -l.amount : l.amount" :currency="receipt.currency" />
          </td>
          <td>{{ l.by }}</td>
        </tr>
        <tr v-if="!receipt.links.length">
          <td v-if="undoable" />
          <td colspan="5" class="text-soft">Nothing allocated: the money lies on account.</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
