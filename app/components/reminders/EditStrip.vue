<script setup lang="ts">
import { ref, watch } from 'vue'

/** Asks for what a change of a notice needs: why it is left out, or another address. */
const props = defineProps<{ ask: 'leaveOut' | 'recipient'; name: string; value: string }>()
const emit = defineEmits<{ save: [string]; close: [] }>()
const text = ref(props.value)
watch(
  () => [props.ask, props.value],
  () => (text.value = props.value),
)
const LABELS = {
  leaveOut: 'is left out because',
  recipient: 'gets it at (empty: by post)',
} as const
</script>

<template>
  <form class="filters border-t border-rule !py-2" @submit.prevent="emit('save', text)">
    <b class="name">{{ name }}</b>
    <span
      ><label class="label" for="edit-text">{{ LABELS[ask] }} </label
      ><input
        id="edit-text"
        v-model="text"
        v-focus
        class="field w-[320px]"
        maxlength="190"
        @keydown.esc.stop="emit('close')"
    /></span>
    <button class="plain" :disabled="ask === 'leaveOut' && !text.trim()">Keep <kbd>↵</kbd></button>
    <button type="button" class="hint makes" @click="emit('close')">Leave it <kbd>Esc</kbd></button>
  </form>
</template>
