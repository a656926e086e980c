<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { useSession } from '~/stores/session'

/** The line is no customer's money: it goes to a ledger account, now and by rule. */
defineProps<{ line: BankLineDetail | null; accounts: readonly { number: string; name: string }[] }>()
const action = defineModel<LineAction | null>('action')
const reason = defineModel<string>('reason')
const mayRule = useSession().can('policy.edit')
const account = ref('')
const words = ref('')
const rememberPayer = ref(false)
watchEffect(() => {
  action.value = account.value
    ? {
        kind: 'ledger',
        account: account.value,
        words: words.value.trim(),
        rememberPayer: rememberPayer.value,
      }
    : null
  reason.value = account.value ? '' : 'choose a ledger account'
})
</script>

<template>
  <div class="flex flex-1 flex-col gap-3 px-[18px] py-3">
    <p>
      <label class="label" for="to">To the ledger account </label
      ><select id="to" v-model="account" v-focus class="field">
        <option value="">choose</option>
        <option v-for="a in accounts" :key="a.number" :value="a.number">{{ a.number }} {{ a.name }}</option>
      </select>
    </p>
    <p v-if="!mayRule" class="hint">
      That lines like this one go there by themselves is a rule: a supervisor can make it, under Setup.
    </p>
    <p v-if="mayRule">
      <label class="label" for="words">From now on, lines with the words </label
      ><input id="words" v-model="words" class="field w-[240px]" maxlength="120" placeholder="none" />
      {{ ' ' }}
      <span class="label">go there too</span>
    </p>
    <label v-if="mayRule && line?.iban" class="flex items-center gap-1.5"
      ><input v-model="rememberPayer" type="checkbox" class="tick" /> and all
      {{ line.amount > 0 ? 'money from' : 'payments to' }} {{ line.iban }}</label
    >
  </div>
</template>
