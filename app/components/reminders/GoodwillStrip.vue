<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import { useGuard } from '~/composables/guard'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'

/** Gives up a fee or interest, whole or in part, as goodwill; the Proof shows what it posts. */
const props = defineProps<{ item: AccountItem }>()
const emit = defineEmits<{ done: []; cancel: [] }>()
const desk = useDesk()
const amount = ref<number | null>(props.item.open)
const reason = ref('')
const busy = ref(false)
// The strip is made anew for each item: sent again after a fault, it is done once.
const key = crypto.randomUUID()
const { trouble, complain } = useGuard()
const { proof, pending, ready } = useProof(
  () =>
    amount.value === null
      ? null
      : call(contract.reminders.goodwillProof, {
          body: { itemId: props.item.id, amount: amount.value, reason: reason.value || '-' },
        }),
  [amount, reason],
)
async function give(): Promise<void> {
  if (busy.value || !ready.value || amount.value === null || !reason.value.trim()) return
  busy.value = true
  try {
    const { waiting } = await call(contract.reminders.goodwill, {
      body: { itemId: props.item.id, amount: amount.value, reason: reason.value },
      key,
    })
    desk.say(
      waiting === null
        ? { text: `${props.item.number} given up.` }
        : { text: 'It waits for a second person.', to: '/sign-off', action: 'See Sign-off' },
    )
    emit('done')
  } catch (error) {
    complain(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="filters" @submit.prevent="give" @keydown.escape="emit('cancel')" @keydown.ctrl.enter="give">
    <b class="font-semibold">Give up {{ item.number }}</b>
    <MoneyField v-model="amount" :currency="item.currency" label="How much of it" />
    <input
      v-model="reason"
      v-focus
      class="field w-[260px]"
      placeholder="Why"
      aria-label="Reason of the goodwill"
      maxlength="200"
    />
    <button type="button" class="hint" @click="emit('cancel')">Cancel</button>
    <span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </form>
  <ProofStrip
    :proof="proof"
    :reason="reason.trim() ? '' : 'say why it is given up'"
    verb="Give up"
    :busy="busy || pending"
    :labels="[]"
    @post="give"
  />
</template>
