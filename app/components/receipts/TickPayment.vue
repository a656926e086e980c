<script setup lang="ts">
import { computed } from 'vue'
import type { BankLine } from '~~/contract/banking/lines'
import { MEANS } from '~~/contract/receipts'
import { useSession } from '~/stores/session'
import { amountText } from '~/utils/format'

/** The payment that is ticked off: when and how it came, or the bank line that shows it. */
const props = defineProps<{ lines: readonly BankLine[] }>()
const date = defineModel<string>('date', { required: true })
const means = defineModel<(typeof MEANS)[number]>('means', { required: true })
const reference = defineModel<string>('reference', { required: true })
const lineId = defineModel<number>('lineId', { required: true })
const mode = defineModel<'customer' | 'item'>('mode', { required: true })
const session = useSession()
const line = computed(() => props.lines.find(l => l.id === lineId.value) ?? null)
</script>

<template>
  <span class="ml-auto flex items-baseline gap-1.5"
    ><label class="label" for="paid-on">paid on</label
    ><DateField id="paid-on" v-model="date" label="Paid on" :today="session.today" :max="session.today"
  /></span>
  <span
    ><label class="label" for="by">by </label
    ><select v-if="!line" id="by" v-model="means" class="field">
      <option v-for="k in MEANS" :key="k" :value="k">{{ k }}</option></select
    ><b v-else class="font-semibold">bank line</b></span
  >
  <input
    v-model="reference"
    class="field w-[120px]"
    placeholder="Reference"
    aria-label="Reference"
    maxlength="80"
  />
  <select
    v-if="lines.length"
    v-model="lineId"
    class="field w-[150px]"
    aria-label="Bank line that shows the money"
  >
    <option :value="0">no bank line</option>
    <option v-for="l in lines" :key="l.id" :value="l.id">
      {{ amountText(l.amount, l.currency) }} {{ l.name }}
    </option>
  </select>
  <button class="plain !py-0" :disabled="line !== null" @click="mode = mode === 'item' ? 'customer' : 'item'">
    {{ mode === 'item' ? 'a receipt per item' : 'a lump per customer' }} <kbd>M</kbd>
  </button>
</template>
