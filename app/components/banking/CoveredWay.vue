<script setup lang="ts">
import { computed, ref, watch, watchEffect } from 'vue'
import { contract } from '~~/contract'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** The line is money that was posted before and is awaited from the bank. */
const props = defineProps<{
  line: BankLineDetail | null
  currency: string
  accounts: readonly { number: string; name: string }[]
}>()
const action = defineModel<LineAction | null>('action')
const reason = defineModel<string>('reason')

type Covered = Awaited<ReturnType<typeof readCovered>>['items'][number]
const readCovered = (currency: string) => call(contract.banking.covered, { query: { currency } })
const covered = ref<Covered[]>([])
const targets = ref<Set<string>>(new Set())
const restAccount = ref('')
const trouble = ref('')
const keyOf = (c: Covered) => `${c.kind} ${c.id}`

async function read(): Promise<void> {
  if (!props.line) return
  const { currency } = props.line
  try {
    await fill(covered, async () => (await readCovered(currency)).items)
    trouble.value = ''
  } catch (error) {
    trouble.value = problemText(error)
  }
}
watch(() => props.line, read, { immediate: true })
const chosen = computed(() => covered.value.filter(c => targets.value.has(keyOf(c))))
const sum = computed(() => chosen.value.reduce((a, c) => a + c.amount, 0))
const apart = computed(() => (props.line?.amount ?? 0) - sum.value)
function flip(c: Covered): void {
  const next = new Set(targets.value)
  if (!next.delete(keyOf(c))) next.add(keyOf(c))
  targets.value = next
}
watchEffect(() => {
  action.value = chosen.value.length
    ? {
        kind: 'covered',
        targets: chosen.value.map(c => ({ kind: c.kind, id: c.id })),
        restAccount: restAccount.value || null,
      }
    : null
})
watchEffect(() => {
  if (trouble.value) reason.value = trouble.value
  else if (!chosen.value.length) reason.value = 'tick what the bank shows now'
  else if (apart.value && !restAccount.value)
    reason.value = `${amountText(apart.value, props.currency)} apart: say where it goes`
  else reason.value = ''
})
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto">
    <table class="grid-table">
      <thead>
        <tr>
          <th>Awaited from the bank</th>
          <th>Date</th>
          <th>Customer</th>
          <th class="num">Amount</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in covered" :key="keyOf(c)">
          <td>
            <label class="flex items-center gap-2.5"
              ><input type="checkbox" class="tick" :checked="targets.has(keyOf(c))" @change="flip(c)" /><span
                class="font-semibold"
                >{{ c.label }}</span
              ><span class="aside">{{ c.kind === 'means' ? 'receipt' : c.kind }}</span></label
            >
          </td>
          <td>{{ dateText(c.date) }}</td>
          <td>
            <span class="name">{{ c.customer?.name }}</span>
          </td>
          <td class="num"><Figure :amount="c.amount" :currency="c.currency" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">
            {{ chosen.length }} of {{ plural(covered.length, 'payment')
            }}<span class="ml-4 font-normal text-soft"
              >the line {{ amountText(line?.amount ?? 0, currency) }}, apart
              {{ amountText(apart, currency) }}</span
            >
          </td>
          <td class="num"><Figure :amount="sum" :currency="currency" zero /></td>
        </tr>
      </tfoot>
    </table>
    <p v-if="!covered.length" class="hint p-[18px]">
      Nothing in {{ currency }} is posted and awaited from the bank.
    </p>
    <p v-if="chosen.length && apart" class="px-[18px] py-2">
      <label class="label" for="rest">The difference goes to </label
      ><select id="rest" v-model="restAccount" class="field">
        <option value="">choose</option>
        <option v-for="a in accounts" :key="a.number" :value="a.number">{{ a.number }} {{ a.name }}</option>
      </select>
    </p>
  </div>
</template>
