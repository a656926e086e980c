<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { extent, scaleLinear } from 'd3'
import { computed, ref } from 'vue'
import { wholeText } from '~/utils/format'

/** A bridge as a picture: what was there, what came and went on top of it, what is there now; to scale. */
const props = defineProps<{
  steps: { label: string; amount: number; isEnd: boolean }[]
  currency: string
}>()
const HEIGHT = 168
const LABEL = 34
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
/** Each step from where the one before ended; an end stands on the ground. */
const bars = computed(() => {
  let level = 0
  return props.steps.map(step => {
    const from = step.isEnd ? 0 : level
    level = step.isEnd ? step.amount : level + step.amount
    return { ...step, from, to: level }
  })
})
const y = computed(() => {
  const [low, high] = extent(bars.value.flatMap(b => [b.from, b.to, 0])) as [number, number]
  return scaleLinear([low, high], [HEIGHT - LABEL, 16])
})
const step = computed(() => (width.value || 800) / Math.max(1, bars.value.length))
const barWidth = computed(() => Math.min(64, step.value * 0.58))
const x = (n: number) => n * step.value + (step.value - barWidth.value) / 2
const tone = (b: { isEnd: boolean; amount: number }) =>
  b.isEnd ? 'var(--ink-soft)' : b.amount < 0 ? 'var(--age-1)' : 'var(--age-3)'
</script>

<template>
  <div ref="box" class="w-full">
    <svg :width="width" :height="HEIGHT" role="img" aria-label="What moved, to scale">
      <line :x1="0" :x2="width" :y1="y(0)" :y2="y(0)" stroke="var(--rule-strong)" />
      <g v-for="(b, n) in bars" :key="b.label">
        <rect
          :x="x(n)"
          :y="Math.min(y(b.from), y(b.to))"
          :width="barWidth"
          :height="Math.max(1, Math.abs(y(b.from) - y(b.to)))"
          :fill="tone(b)"
        />
        <line
          v-if="n < bars.length - 1"
          :x1="x(n) + barWidth"
          :x2="x(n + 1)"
          :y1="y(b.to)"
          :y2="y(b.to)"
          stroke="var(--ink-faint)"
          stroke-dasharray="2 2"
        />
        <text
          :x="x(n) + barWidth / 2"
          :y="Math.min(y(b.from), y(b.to)) - 4"
          text-anchor="middle"
          class="figure"
        >
          {{ wholeText(b.amount, currency) }}
        </text>
        <text :x="x(n) + barWidth / 2" :y="HEIGHT - 12" text-anchor="middle" class="step">{{ b.label }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
text {
  fill: var(--ink);
  font-size: 12px;
}
text.step {
  fill: var(--ink-soft);
}
text.figure {
  font-variant-numeric: tabular-nums;
  font-weight: 600;
}
</style>
