<script setup lang="ts">
import type { ReceiptDetail } from '~~/contract/receipts'
import { dateText } from '~/utils/format'

/** All that is known of a receipt, each fact with the way to where it comes from. */
defineProps<{ receipt: ReceiptDetail }>()
</script>

<template>
  <dl class="flex flex-wrap gap-x-8 gap-y-1 px-[18px] pb-3">
    <div>
      <dt class="label">Paid on</dt>
      <dd class="font-semibold">{{ dateText(receipt.date) }}</dd>
    </div>
    <div>
      <dt class="label">Amount</dt>
      <dd class="font-semibold"><Figure :amount="receipt.amount" :currency="receipt.currency" sign /></dd>
    </div>
    <div>
      <dt class="label">On account</dt>
      <dd class="font-semibold">
        <Figure :amount="receipt.unallocated" :currency="receipt.currency" zero />
      </dd>
    </div>
    <div v-for="(m, n) in receipt.meansLines" :key="n">
      <dt class="label">By {{ m.means }}</dt>
      <dd>
        <b class="font-semibold"><Figure :amount="m.amount" :currency="receipt.currency" /></b>
        {{ m.reference }} <span class="hint">in {{ m.account }} {{ m.accountName }}</span>
      </dd>
    </div>
    <div v-if="receipt.restUse === 'refund' || receipt.restUse === 'item'">
      <dt class="label">The rest</dt>
      <dd>
        <NuxtLink
          v-if="receipt.restUse === 'refund'"
          class="makes"
          :to="`/refunds?customer=${encodeURIComponent(receipt.customer.number)}`"
          >is to be refunded</NuxtLink
        ><template v-else>is kept for an item</template>
      </dd>
    </div>
    <div v-if="receipt.bankLines.length">
      <dt class="label">Bank</dt>
      <dd>
        <NuxtLink
          v-for="l in receipt.bankLines"
          :key="l.id"
          class="makes mr-2"
          :to="`/banking?state=all&find=${encodeURIComponent(l.text.slice(0, 60))}`"
          :title="l.text"
          >{{ dateText(l.date) }}</NuxtLink
        >
      </dd>
    </div>
    <div v-if="receipt.batch">
      <dt class="label">Batch</dt>
      <dd>
        <NuxtLink class="makes" :to="`/receipts/batches/${receipt.batch.id}`">{{
          receipt.batch.number
        }}</NuxtLink>
      </dd>
    </div>
    <div v-if="receipt.was">
      <dt class="label">Put right from</dt>
      <dd>
        <NuxtLink class="makes" :to="`/receipts/${receipt.was.id}`">{{ receipt.was.number }}</NuxtLink>
      </dd>
    </div>
    <div v-if="receipt.became">
      <dt class="label">Put right as</dt>
      <dd>
        <NuxtLink class="makes" :to="`/receipts/${receipt.became.id}`">{{ receipt.became.number }}</NuxtLink>
      </dd>
    </div>
    <div v-for="(d, n) in receipt.deductions" :key="n">
      <dt class="label">Deduction on {{ d.item }}</dt>
      <dd :class="d.live ? '' : 'text-faint'">
        <Figure :amount="d.amount" :currency="receipt.currency" /> {{ d.reason.replace('-', ' ') }} {{ d.note
        }}{{ d.live ? '' : ', withdrawn' }}
      </dd>
    </div>
    <div>
      <dt class="label">Entered by</dt>
      <dd>{{ receipt.by }}</dd>
    </div>
    <div>
      <dt class="label">Journal</dt>
      <dd>
        <template v-for="e in receipt.entries" :key="e"
          ><NuxtLink class="makes mr-2" :to="`/books/journal?number=${e}`">{{ e }}</NuxtLink></template
        >
      </dd>
    </div>
  </dl>
</template>
