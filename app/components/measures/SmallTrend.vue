<script setup lang="ts">
import { extent, line, scaleLinear } from 'd3'
import { computed } from 'vue'

/** A trend small enough for a cell: whether it rises or falls; the figures stand beside it. */
const props = defineProps<{ values: (number | null)[] }>()
const [WIDTH, HEIGHT] = [92, 22]
const d = computed(() => {
  const known = props.values.filter((v): v is number => v !== null)
  const [low, high] = extent(known) as [number | undefined, number | undefined]
  if (low === undefined || high === undefined) return ''
  const y = scaleLinear([low, high > low ? high : low + 1], [HEIGHT - 3, 3])
  const step = (WIDTH - 4) / Math.max(1, props.values.length - 1)
  return (
    line<number | null>()
      .defined(v => v !== null)
      .x((_, n) => 2 + n * step)
      .y(v => y(v!))(props.values) ?? ''
  )
})
</script>

<template>
  <svg :width="WIDTH" :height="HEIGHT" aria-hidden="true" class="inline-block align-middle">
    <path :d="d" fill="none" stroke="var(--ink-soft)" stroke-width="1.5" />
  </svg>
</template>
