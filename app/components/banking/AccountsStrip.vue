<script setup lang="ts">
import { computed } from 'vue'
import type { BankAccount } from '~~/contract/banking/lines'
import { amountText, dateText } from '~/utils/format'

/** What the bank says of each account beside the ledger; one that is clicked is looked at alone. */
const props = defineProps<{ accounts: readonly BankAccount[]; loading: boolean }>()
const account = defineModel<number | undefined>('account')
const shown = computed(() => props.accounts.filter(a => !account.value || a.id === account.value))
</script>

<template>
  <div class="flex flex-wrap gap-x-7 gap-y-1 border-t border-rule px-[18px] py-1.5" data-test="reconciled">
    <span
      v-for="a in shown"
      :key="a.id"
      class="whitespace-nowrap"
      :title="`${a.name}, ${a.iban}${a.lastStatement ? `, statement ${a.lastStatement.number}` : ''}`"
    >
      <button class="makes mr-1.5 font-semibold" @click="account = account === a.id ? undefined : a.id">
        {{ a.currency }}
      </button>
      <template v-if="a.lastStatement"
        ><Figure
          :amount="a.lastStatement.closing ?? a.opening + a.settledSum + a.openSum"
          :currency="a.currency"
          zero
        />
        <span v-if="account" class="ml-1.5 text-soft"
          >on {{ dateText(a.lastStatement.to) }} = ledger account {{ a.account }}
          <Figure :amount="a.ledger" :currency="a.currency" zero /> + to work
          <Figure :amount="a.openSum" :currency="a.currency" zero /><template v-if="a.opening">
            + before the first statement <Figure :amount="a.opening" :currency="a.currency" /></template
        ></span>
        <span v-else-if="a.openLines" class="ml-1.5 text-soft"
          >{{ amountText(a.openSum, a.currency) }} to work</span
        >
        <b v-if="a.difference" class="wrong ml-1.5">{{ amountText(a.difference, a.currency) }} apart</b
        ><span v-else class="ml-1.5 text-soft">{{ account || !a.openLines ? 'agrees' : '' }}</span> </template
      ><span v-else class="hint">no statement yet</span>
    </span>
    <NuxtLink v-if="!accounts.length && !loading" class="plain" to="/setup"
      >Add a bank account under Setup</NuxtLink
    >
  </div>
</template>
