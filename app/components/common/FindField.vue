<script setup lang="ts">
import { ref } from 'vue'
import { useKeys } from '~/composables/keys'

/**
 * Finds in a list by what is typed. F goes into it; Enter leaves it, so that the keys of the list work;
 * Escape empties it as well. `label`: "Find a refund".
 */
const props = defineProps<{ label: string; placeholder: string }>()
const words = defineModel<string>({ required: true })
const field = ref<HTMLInputElement | null>(null)

useKeys([{ key: 'f', label: props.label, run: () => field.value?.focus() }])

function empty(): void {
  words.value = ''
  field.value?.blur()
}
</script>

<template>
  <input
    ref="field"
    v-model="words"
    class="field"
    :placeholder="placeholder"
    :aria-label="label"
    @keydown.escape="empty"
    @keydown.enter="field?.blur()"
  />
</template>
