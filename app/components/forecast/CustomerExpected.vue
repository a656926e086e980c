<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import { call, problemText } from '~/utils/api'
import { proseText, shortDay } from '~/utils/format'
import { fill } from '~/utils/fill'

/** What one customer is expected to pay, item by item, and why. */
const props = defineProps<{
  number: string
  currency: string
  query: Record<string, string | number | undefined>
}>()
type Expected = Awaited<ReturnType<typeof read>>
const read = () => call(contract.forecast.customer, { params: { number: props.number }, query: props.query })
const expected = ref<Expected | null>(null)
const trouble = ref('')
onMounted(async () => {
  try {
    await fill(expected, () => read())
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const short = (date: string | null): string => (date ? shortDay(date) : 'later')
/** The most that are shown; the account shows all. */
const SHOWN = 12
</script>

<template>
  <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  <p v-else-if="!expected" class="hint">It is worked out item by item.</p>
  <template v-else>
    <p class="text-soft">
      {{ expected.why }}. <span v-if="expected.late" class="wrong">{{ proseText(expected.late) }}.</span>
      <NuxtLink class="makes ml-2" :to="`/accounts/${number}`">The account</NuxtLink>
    </p>
    <table v-if="expected.items.length" data-test="expected">
      <thead>
        <tr class="text-soft">
          <th class="pr-6 text-left font-normal">Item</th>
          <th class="pr-6 text-left font-normal">Due</th>
          <th class="pr-6 text-left font-normal">Half by</th>
          <th class="pr-6 text-left font-normal">One in ten by, nine in ten by</th>
          <th class="num pr-6 font-normal">Past what is usual</th>
          <th class="num font-normal">Open</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(i, n) in expected.items.slice(0, SHOWN)" :key="n">
          <td class="pr-6">{{ i.number }}</td>
          <td class="pr-6">{{ i.source === 'orders' ? 'ordered' : short(i.due) }}</td>
          <td class="pr-6">{{ short(i.p50) }}</td>
          <td class="pr-6 text-soft">{{ short(i.p10) }}, {{ short(i.p90) }}</td>
          <td class="num pr-6">{{ i.past ? `${i.past} days` : '' }}</td>
          <td class="num"><Figure :amount="i.open" :currency="currency" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="expected.items.length > SHOWN" class="hint">and {{ expected.items.length - SHOWN }} more</p>
  </template>
</template>
