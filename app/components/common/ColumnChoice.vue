<script setup lang="ts">
/** Which columns of a list are shown: ticks by column, for the menu they stand in. */
defineProps<{ choices: readonly { key: string; label: string }[] }>()
const hidden = defineModel<string[]>('hidden', { required: true })
const flip = (key: string) => {
  hidden.value = hidden.value.includes(key) ? hidden.value.filter(h => h !== key) : [...hidden.value, key]
}
</script>

<template>
  <label v-for="c in choices" :key="c.key" class="flex items-center gap-2 py-1"
    ><input type="checkbox" class="tick" :checked="!hidden.includes(c.key)" @change="flip(c.key)" />
    {{ c.label }}</label
  >
</template>
