<script setup lang="ts">
import { reactive } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useDesk } from '~/stores/desk'
import { call } from '~/utils/api'
import { plural } from '~/utils/format'

/** Somebody leaves: all that waits for them goes to somebody else. */
defineProps<{ people: readonly { email: string; name: string; active: boolean }[] }>()
const desk = useDesk()
const { trouble, complain } = useGuard()
const form = reactive({ from: '', to: '' })
async function handOver(): Promise<void> {
  try {
    const { messages, disputes, accounts } = await call(contract.messages.handOver, { body: { ...form } })
    trouble.value = ''
    const all = [plural(messages, 'message'), plural(disputes, 'dispute'), plural(accounts, 'account')]
    desk.say({ text: `Handed over: ${all.join(', ')}.` })
    Object.assign(form, { from: '', to: '' })
  } catch (error) {
    complain(error)
  }
}
</script>

<template>
  <form class="mt-5 flex flex-wrap items-baseline gap-3 border-t border-rule pt-3" @submit.prevent="handOver">
    <label class="label" for="leaving">All that waits for</label
    ><select id="leaving" v-model="form.from" class="field" required>
      <option value="" disabled>choose</option>
      <option v-for="p in people" :key="p.email" :value="p.email">{{ p.name }}</option></select
    ><label class="label" for="heir">goes to</label
    ><select id="heir" v-model="form.to" class="field" required>
      <option value="" disabled>choose</option>
      <option
        v-for="p in people.filter(x => x.active && x.email !== form.from)"
        :key="p.email"
        :value="p.email"
      >
        {{ p.name }}
      </option></select
    ><button class="plain" :disabled="!form.from || !form.to">Hand over</button
    ><span class="hint"
      >messages not read, tasks not done, open disputes, and the accounts they look after</span
    >
    <p v-if="trouble" class="wrong" role="alert">{{ trouble }}</p>
  </form>
</template>
