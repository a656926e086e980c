<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { Run, RunNotice } from '~~/contract/reminders'
import type { Proof } from '~~/contract/receipts'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { fill } from '~/utils/fill'

/** Takes back a run or one notice of it: a reason, whether the customers are told, and the Proof. */
const props = defineProps<{ run: Run; notice: RunNotice | null }>()
const emit = defineEmits<{ done: [Run]; close: [] }>()
const reason = ref('')
const tell = ref(true)
const proof = ref<Proof | null>(null)
const busy = ref(false)
const key = crypto.randomUUID()
const { trouble, guard, complain } = useGuard()
const keys = computed(() => (props.notice ? [props.notice.key] : null))
watch(
  keys,
  async () => {
    try {
      await fill(proof, () =>
        call(contract.reminders.withdrawProof, {
          params: { id: props.run.id },
          body: { keys: keys.value, reason: '-' },
        }),
      )
    } catch (error) {
      complain(error)
    }
  },
  { immediate: true },
)
const whom = computed(() => (props.notice ? props.notice.customer.name : 'the whole run'))
async function withdraw(): Promise<void> {
  if (busy.value || !reason.value.trim()) return
  busy.value = true
  await guard(async () => {
    const run = await call(contract.reminders.withdraw, {
      params: { id: props.run.id },
      body: { keys: keys.value, reason: reason.value, tell: tell.value },
      key,
    })
    emit('done', run)
  }, `Withdrawn: ${whom.value}.`)
  busy.value = false
}
</script>

<template>
  <form class="filters border-t border-rule !py-2" @submit.prevent="withdraw" @keydown.esc="emit('close')">
    <b class="font-semibold">Withdraw {{ whom }}</b>
    <span
      ><label class="label" for="withdraw-why">because </label
      ><input id="withdraw-why" v-model="reason" v-focus class="field w-[260px]" maxlength="200"
    /></span>
    <label class="flex items-center gap-1.5"
      ><input v-model="tell" type="checkbox" class="tick" /> write to those who have the letter</label
    >
    <button type="button" class="hint makes ml-auto" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
    <p v-if="trouble" class="wrong w-full" role="alert">{{ trouble }}</p>
  </form>
  <ProofStrip
    :proof="proof"
    :reason="reason.trim() ? '' : 'say why it is withdrawn'"
    verb="Withdraw"
    :busy="busy"
    :labels="[]"
    @post="withdraw"
  />
</template>
