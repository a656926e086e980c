<script setup lang="ts">
import { ref } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import { addDays } from '~~/core/calendar'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'

const props = defineProps<{ customer: string; item: AccountItem | null }>()
const emit = defineEmits<{ done: []; cancel: [] }>()
const session = useSession()
const until = ref(addDays(session.today, 14))
const reason = ref('')
const trouble = ref('')
async function save(): Promise<void> {
  try {
    await call(contract.reminders.pause, {
      body: { customer: props.customer, itemId: props.item?.id, reason: reason.value, until: until.value },
    })
    emit('done')
  } catch (error) {
    trouble.value = problemText(error)
  }
}
</script>

<template>
  <form class="filters" @submit.prevent="save" @keydown.escape="emit('cancel')">
    <b class="font-semibold">Pause reminders of {{ item ? item.number : 'the account' }}</b>
    <input
      v-model="reason"
      v-focus
      class="field w-[220px]"
      placeholder="Why"
      aria-label="Reason of the pause"
      required
      maxlength="200"
    />
    <span class="flex items-baseline gap-1.5"
      ><span class="label">until</span
      ><DateField v-model="until" label="Until" :today="session.today" :min="session.today"
    /></span>
    <button class="plain">Pause</button
    ><button type="button" class="hint" @click="emit('cancel')">Cancel</button
    ><span v-if="trouble" class="wrong" role="alert">{{ trouble }}</span>
  </form>
</template>
