<script setup lang="ts">
/** Lines across a picture, each with its value at the left. `from` and `to`: where they begin and end. */
defineProps<{
  ticks: number[]
  y: (value: number) => number
  from: number
  to: number
  text: (value: number) => string
}>()
</script>

<template>
  <g class="value-axis">
    <g v-for="t in ticks" :key="t">
      <line :x1="from" :x2="to" :y1="y(t)" :y2="y(t)" stroke="var(--rule)" />
      <text :x="from - 8" :y="y(t) + 4" text-anchor="end">{{ text(t) }}</text>
    </g>
  </g>
</template>

<style scoped>
text {
  fill: var(--ink-soft);
  font-size: 11px;
  font-variant-numeric: tabular-nums;
}
</style>
