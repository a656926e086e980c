<script setup lang="ts">
import { ref, watch } from 'vue'
import { amountText, readAmount } from '~/utils/format'

/** An amount as people type it; null while empty. What cannot be read stays in the field and says so. */
const props = defineProps<{
  modelValue: number | null
  currency: string
  label: string
  id?: string
  max?: number
  placeholder?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [number | null] }>()
const show = (v: number | null) => (v === null ? '' : amountText(v, props.currency))
const text = ref(show(props.modelValue))
const wrong = ref(false)
watch(
  () => props.currency,
  () => {
    if (text.value.trim()) read()
  },
)
watch(
  () => props.modelValue,
  v => {
    if (readAmount(text.value, props.currency) !== v) {
      text.value = show(v)
      wrong.value = false
    }
  },
)
function read(): void {
  const value = text.value.trim() ? readAmount(text.value, props.currency) : null
  wrong.value = text.value.trim() !== '' && value === null
  if (!wrong.value) emit('update:modelValue', value)
}
const tidy = () => {
  if (!wrong.value) text.value = show(props.modelValue)
}
</script>

<template>
  <input
    :id="id"
    data-money
    v-model="text"
    class="field num w-[108px]"
    inputmode="decimal"
    autocomplete="off"
    :aria-label="label"
    :aria-invalid="wrong || (max !== undefined && (modelValue ?? 0) > max)"
    :title="wrong ? 'Write an amount such as 1,210.40' : undefined"
    :placeholder="placeholder"
    @input="read"
    @blur="tidy"
    @focus="($event.target as HTMLInputElement).select()"
  />
</template>
