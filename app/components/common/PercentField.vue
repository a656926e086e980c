<script setup lang="ts">
/** A share or a yearly rate in per cent, with two decimals; empty where `v-model` is ''. */
defineProps<{ id?: string; label?: string; min?: number; disabled?: boolean }>()
const value = defineModel<number | ''>({ required: true })
</script>

<template>
  <input
    :id="id"
    v-model.number="value"
    type="number"
    :min="min ?? 0"
    max="100"
    step="0.01"
    class="field w-20"
    :aria-label="label"
    :disabled="disabled"
  />
</template>
