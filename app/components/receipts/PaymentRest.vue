<script setup lang="ts">
import type { AccountItem } from '~~/contract/accounts'
import { amountText } from '~/utils/format'

/** What of a payment is not assigned yet, and what becomes of it. */
defineProps<{
  rest: number
  amount: number
  currency: string
  isCredit: boolean
  mayAdvance: boolean
  debits: readonly AccountItem[]
  /** Credit that lies on the account already, minor units. */
  lying: number
}>()
const emit = defineEmits<{ oldestFirst: [] }>()
const onAccount = defineModel<boolean>('onAccount', { required: true })
const use = defineModel<'account' | 'item' | 'refund'>('use', { required: true })
const item = defineModel<number | null>('item', { required: true })
const advance = defineModel<boolean>('advance', { required: true })
</script>

<template>
  <p
    class="flex flex-wrap items-center gap-x-5 border-t border-rule px-[18px] py-2 text-soft"
    aria-live="polite"
  >
    <b class="font-semibold text-ink" data-test="rest"
      ><template v-if="advance">{{ amountText(rest, currency) }} is an advance.</template
      ><template v-else-if="rest === 0 && amount">All assigned.</template
      ><template v-else-if="rest < 0">{{ amountText(-rest, currency) }} more than received.</template
      ><template v-else-if="onAccount && rest">{{ amountText(rest, currency) }} stays on account.</template
      ><template v-else>{{ amountText(rest, currency) }} not yet assigned.</template></b
    >
    <button class="plain !py-0" @click="emit('oldestFirst')">Oldest first <kbd>O</kbd></button>
    <label v-if="!isCredit" class="flex items-center gap-1.5"
      ><input v-model="onAccount" type="checkbox" class="tick" /> Leave the rest on account
      <kbd>A</kbd></label
    >
    <span v-if="onAccount && rest > 0" class="flex items-baseline gap-1.5"
      ><label class="sr-only" for="rest-use">The rest is</label
      ><select id="rest-use" v-model="use" class="field">
        <option value="account">to be used</option>
        <option value="refund">to be refunded</option>
        <option value="item">kept for</option></select
      ><select v-if="use === 'item'" v-model="item" class="field" aria-label="Item the rest is kept for">
        <option v-for="i in debits" :key="i.id" :value="i.id">{{ i.number }}</option>
      </select></span
    >
    <label v-if="mayAdvance" class="flex items-center gap-1.5"
      ><input v-model="advance" type="checkbox" class="tick" /> Advance <kbd>H</kbd></label
    >
    <span v-if="lying" class="hint"
      >{{ amountText(lying, currency) }} of credit lies on the account already</span
    >
  </p>
</template>
