<script setup lang="ts">
import { ref } from 'vue'

/** Asks why something that was posted is taken back, ended or void: one line beneath its list. */
defineProps<{
  /** What is done, up to the word because. */
  what: string
  verb?: string
  /** Name of the field for those who do not see it. */
  label?: string
  /** What will be so afterwards. */
  then?: string
}>()
const emit = defineEmits<{ because: [reason: string]; cancel: [] }>()
const reason = ref('')
</script>

<template>
  <form
    class="filters border-t border-rule !py-2"
    @submit.prevent="emit('because', reason)"
    @keydown.esc="emit('cancel')"
  >
    <b class="font-semibold">{{ what }} because</b>
    <input
      v-model="reason"
      v-focus
      class="field w-[280px]"
      :aria-label="label ?? 'Why it is taken back'"
      required
      maxlength="200"
    />
    <button class="plain">{{ verb ?? 'Take it back' }}</button>
    <span v-if="then" class="hint">{{ then }}</span>
  </form>
</template>
