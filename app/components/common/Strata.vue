<script setup lang="ts">
import { computed } from 'vue'
import { amountText } from '~/utils/format'

/** A balance by age as layers, fresh to old; figures are in the title and beside it. */
const props = defineProps<{
  amounts: number[]
  labels: string[]
  currency: string
  width?: number
  height?: number
}>()
const total = computed(() => props.amounts.reduce((a, b) => a + Math.max(0, b), 0))
const title = computed(
  () =>
    props.amounts
      .map((a, i) => (a ? `${props.labels[i]} ${amountText(a, props.currency)}` : ''))
      .filter(Boolean)
      .join(', ') || 'nothing open',
)
</script>

<template>
  <span
    class="inline-flex align-middle"
    role="img"
    :aria-label="title"
    :title="title"
    :style="{ width: width ? `${width}px` : '100%', height: `${height ?? 11}px` }"
  >
    <i
      v-for="(a, i) in amounts"
      v-show="a > 0"
      :key="i"
      class="block h-full"
      :style="{
        width: total ? `${(100 * a) / total}%` : '0',
        background: `var(--age-${i})`,
        minWidth: a > 0 ? '1.5px' : '0',
      }"
    />
    <i v-if="!total" class="block h-full w-full border-b border-rule" />
  </span>
</template>
