<script setup lang="ts">
import { extent, line, scaleLinear } from 'd3'
import { computed } from 'vue'
import { useTimePicture } from '~/composables/timePicture'
import { dateText } from '~/utils/format'

/** A measure over time, with its target as a line; figures of one kind, so the scale is theirs alone. */
const props = defineProps<{
  points: { date: string; value: number | null }[]
  target: number | null
  text: (value: number) => string
  label: string
}>()
const PAD = { height: 190, left: 76, right: 60, top: 14, bottom: 24 }
const { box, width, x, range, at, hover } = useTimePicture(() => props.points.map(p => p.date), PAD)
const known = computed(() =>
  props.points.filter((p): p is { date: string; value: number } => p.value !== null),
)
const y = computed(() => {
  const values = [...known.value.map(p => p.value), ...(props.target === null ? [] : [props.target])]
  const [low, high] = extent(values) as [number | undefined, number | undefined]
  // Amounts and days stand on zero; a share near a hundred is read against a hundred.
  const floor = Math.min(0, low ?? 0)
  return scaleLinear([floor, high && high > floor ? high : floor + 1], range).nice(4)
})
const path = computed(
  () =>
    line<{ date: string; value: number | null }>()
      .defined(p => p.value !== null)
      .x(p => x.value(p.date)!)
      .y(p => y.value(p.value!))(props.points) ?? '',
)
const pointed = computed(() => props.points[at.value ?? props.points.length - 1])
/** Days that have room for their date. */
const every = computed(() => Math.max(1, Math.ceil((props.points.length * 92) / Math.max(1, width.value))))
const isTold = (n: number) => (props.points.length - 1 - n) % every.value === 0
</script>

<template>
  <figure ref="box" class="w-full min-w-0 overflow-hidden">
    <figcaption class="hint" aria-live="off">
      <template v-if="pointed"
        >{{ dateText(pointed.date) }}:
        <b class="font-semibold text-ink">{{
          pointed.value === null ? 'cannot be told' : text(pointed.value)
        }}</b></template
      ><template v-if="target !== null">, target {{ text(target) }}</template>
    </figcaption>
    <svg
      v-if="width"
      :width="width"
      :height="PAD.height"
      role="img"
      :aria-label="`${label} over time; the figures are in the table`"
      @mousemove="hover"
      @mouseleave="at = null"
    >
      <ValueAxis :ticks="y.ticks(4)" :y="y" :from="PAD.left" :to="width - PAD.right" :text="text" />
      <g v-if="target !== null">
        <line
          :x1="PAD.left"
          :x2="width - PAD.right"
          :y1="y(target)"
          :y2="y(target)"
          stroke="var(--ink)"
          stroke-dasharray="4 3"
        />
        <text :x="width - PAD.right + 6" :y="y(target) + 4">target</text>
      </g>
      <path :d="path" fill="none" stroke="var(--accent)" stroke-width="2" />
      <template v-for="(p, n) in points" :key="p.date">
        <circle
          v-if="p.value !== null"
          :cx="x(p.date)"
          :cy="y(p.value)"
          :r="pointed === p ? 4.5 : 2.5"
          fill="var(--accent)"
        />
        <text v-if="isTold(n)" :x="x(p.date)" :y="PAD.height - 6" text-anchor="middle">
          {{ dateText(p.date) }}
        </text>
      </template>
    </svg>
  </figure>
</template>

<style scoped>
text {
  fill: var(--ink-soft);
  font-size: 11px;
  font-variant-numeric: tabular-nums;
}
</style>
