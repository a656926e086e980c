<script setup lang="ts">
import { ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { CheckAnswer } from '~~/contract/exposure'
import { call, problemText } from '~/utils/api'
import { amountText, proseText } from '~/utils/format'

/** May an order go? Answered while the amount is typed: yes, or no with what would make it yes. */
const props = defineProps<{ customer: string; currency: string; currencies: string[] }>()
const amount = ref<number | null>(null)
const currency = ref(props.currency)
const answer = ref<CheckAnswer | null>(null)
const trouble = ref('')
let asked = 0
watch([amount, currency, () => props.customer], async () => {
  const mine = ++asked
  if (!amount.value || amount.value < 0) {
    answer.value = null
    return
  }
  try {
    const told = await call(contract.exposure.check, {
      body: { customer: props.customer, currency: currency.value, amount: amount.value },
    })
    if (mine !== asked) return
    answer.value = told
    trouble.value = ''
  } catch (error) {
    if (mine === asked) trouble.value = problemText(error)
  }
})
const field = ref<HTMLElement | null>(null)
defineExpose({ focus: () => field.value?.querySelector('input')?.focus() })
</script>

<template>
  <div ref="field" data-test="check">
    <div class="flex items-baseline gap-2">
      <label class="label" for="order-amount">An order of</label>
      <MoneyField id="order-amount" v-model="amount" :currency="currency" label="Amount of the order" />
      <select v-model="currency" class="field" aria-label="Currency of the order">
        <option v-for="c in currencies" :key="c">{{ c }}</option>
      </select>
    </div>
    <div aria-live="polite" class="mt-2">
      <p v-if="trouble" class="wrong">{{ trouble }}</p>
      <template v-else-if="answer">
        <p v-if="answer.yes" data-test="verdict">
          <b class="font-semibold">Yes.</b> Exposure would stand at
          {{ amountText(answer.after, answer.base, true)
          }}<template v-if="answer.limit !== null">
            of {{ amountText(answer.limit, answer.base, true) }}</template
          >.
        </p>
        <template v-else>
          <p data-test="verdict"><b class="wrong font-semibold">No.</b></p>
          <ul class="mt-1 flex flex-col gap-1.5">
            <li v-for="r in answer.reasons" :key="r.rule + r.message">
              {{ proseText(r.message.charAt(0).toUpperCase() + r.message.slice(1)) }}.
              <span class="text-soft">It may go when {{ r.satisfy }}.</span>
            </li>
          </ul>
        </template>
      </template>
      <p v-else class="hint">Type the amount of an order: may it go?</p>
    </div>
  </div>
</template>
