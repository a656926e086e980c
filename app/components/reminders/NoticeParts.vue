<script setup lang="ts">
import type { RunNotice } from '~~/contract/reminders'
import { dateText } from '~/utils/format'

/** What a notice is made of: its items, and interest by period, adding up to what it claims. */
defineProps<{ notice: RunNotice }>()
const consequences = (n: RunNotice): string =>
  [
    n.consequence.hold ? 'orders are held' : '',
    n.consequence.tellSales ? 'the sales contact is told' : '',
    n.consequence.handOver ? 'it is proposed to hand the account over' : '',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <p class="mb-1 text-soft">
    {{ notice.why.charAt(0).toUpperCase() + notice.why.slice(1) }}.
    {{ notice.channel === 'email' ? `To ${notice.recipient}` : 'By post' }}, payable by
    {{ dateText(notice.deadline)
    }}<template v-if="consequences(notice)">; {{ consequences(notice) }}</template
    >.
  </p>
  <table class="ml-2" aria-label="Items of the notice">
    <tbody>
      <tr v-for="i in notice.items" :key="i.id">
        <td class="!h-6 !border-0">{{ i.number }}</td>
        <td class="!h-6 !border-0">due {{ dateText(i.dueDate) }}</td>
        <td class="num !h-6 !border-0">{{ i.daysLate }} days</td>
        <td class="!h-6 !border-0">
          {{ i.level > i.before ? `level ${i.before} → ${i.level}` : notice.level ? 'claimed along' : '' }}
        </td>
        <td class="num !h-6 !border-0"><Figure :amount="i.open" :currency="notice.currency" /></td>
      </tr>
    </tbody>
  </table>
  <table v-if="notice.interestLines.length" class="mt-1 ml-2" aria-label="Interest by period">
    <tbody>
      <tr v-for="l in notice.interestLines" :key="`${l.itemId} ${l.from}`">
        <td class="!h-6 !border-0">{{ l.number }}</td>
        <td class="!h-6 !border-0">{{ dateText(l.from) }} to {{ dateText(l.to) }}</td>
        <td class="num !h-6 !border-0">{{ l.days }} days</td>
        <td class="num !h-6 !border-0">{{ l.rate }} %</td>
        <td class="num !h-6 !border-0">on <Figure :amount="l.base" :currency="notice.currency" /></td>
        <td class="num !h-6 !border-0"><Figure :amount="l.amount" :currency="notice.currency" /></td>
      </tr>
    </tbody>
  </table>
</template>
