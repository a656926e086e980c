<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { area, curveStepAfter, extent, line, scaleLinear, scalePoint } from 'd3'
import { computed, ref } from 'vue'
import { amountText, dateText, shortDay } from '~/utils/format'

/**
 * What may lie at the bank, day by day: the middle, its band of 80 %, the floor, and where it may be
 * crossed.
 */
interface Day {
  date: string
  p10: number
  p50: number
  p90: number
  below: number
}
const props = defineProps<{
  days: Day[]
  /** Of the forecast that it is held against: its middle alone. */
  base: Day[] | null
  floor: number
  crossing: { date: string; chance: number } | null
  currency: string
}>()
const HEIGHT = 208
const PAD = { left: 92, right: 34, top: 12, bottom: 22 }
const box = ref<HTMLElement | null>(null)
const at = ref<number | null>(null)
const { width } = useElementSize(box)
const x = computed(() =>
  scalePoint<string>()
    .domain(props.days.map(d => d.date))
    .range([PAD.left, Math.max(PAD.left + 1, width.value - PAD.right)]),
)
const y = computed(() => {
  const values = [...props.days.flatMap(d => [d.p10, d.p90]), props.floor]
  const [low, high] = extent(values) as [number, number]
  return scaleLinear([low, high > low ? high : low + 1], [HEIGHT - PAD.bottom, PAD.top]).nice(4)
})
const band = computed(
  () =>
    area<Day>()
      .curve(curveStepAfter)
      .x(d => x.value(d.date)!)
      .y0(d => y.value(d.p10))
      .y1(d => y.value(d.p90))(props.days) ?? '',
)
const middleOf = (days: readonly Day[]): string =>
  line<Day>()
    .defined(d => x.value(d.date) !== undefined)
    .curve(curveStepAfter)
    .x(d => x.value(d.date)!)
    .y(d => y.value(d.p50))(days) ?? ''
const pointed = computed(() => props.days[at.value ?? props.days.length - 1])
function hover(event: MouseEvent): void {
  const left = (event.currentTarget as SVGElement).getBoundingClientRect().left
  const step = (width.value - PAD.left - PAD.right) / Math.max(1, props.days.length - 1)
  const place = Math.round((event.clientX - left - PAD.left) / step)
  at.value = Math.max(0, Math.min(props.days.length - 1, place))
}
/** Days that have room for their date: the ends of weeks. */
const told = computed(() => {
  const weeks = Math.max(1, Math.ceil((props.days.length / 7) * (86 / Math.max(1, width.value - 120))))
  return props.days.filter((_, n) => n % (7 * weeks) === 6)
})
</script>

<template>
  <figure ref="box" class="w-full min-w-0 overflow-hidden">
    <figcaption v-if="pointed" class="text-soft" aria-live="off">
      {{ dateText(pointed.date) }}:
      <b class="num font-semibold text-ink">{{ amountText(pointed.p50, currency, true) }}</b>, between
      {{ amountText(pointed.p10, currency) }} and {{ amountText(pointed.p90, currency) }} in four of five
      cases; below the floor by then: {{ Math.round(pointed.below * 100) }} %
    </figcaption>
    <svg
      v-if="width"
      :width="width"
      :height="HEIGHT"
      role="img"
      aria-label="Money at the bank, day by day; its figures by week are in the table"
      @mousemove="hover"
      @mouseleave="at = null"
    >
      <g v-for="t in y.ticks(4)" :key="t">
        <line :x1="PAD.left" :x2="width - PAD.right" :y1="y(t)" :y2="y(t)" stroke="var(--rule)" />
        <text :x="PAD.left - 8" :y="y(t) + 4" text-anchor="end">{{ amountText(t, currency) }}</text>
      </g>
      <path :d="band" fill="var(--accent)" opacity="0.18" />
      <path v-if="base" :d="middleOf(base)" fill="none" stroke="var(--ink-soft)" stroke-dasharray="2 3" />
      <path :d="middleOf(days)" fill="none" stroke="var(--accent)" stroke-width="2" />
      <line
        :x1="PAD.left"
        :x2="width - PAD.right"
        :y1="y(floor)"
        :y2="y(floor)"
        stroke="var(--ink)"
        stroke-dasharray="5 3"
      />
      <text :x="PAD.left + 4" :y="y(floor) - 4">floor</text>
      <g v-if="crossing && x(crossing.date) !== undefined">
        <line
          :x1="x(crossing.date)"
          :x2="x(crossing.date)"
          :y1="PAD.top"
          :y2="HEIGHT - PAD.bottom"
          stroke="var(--wrong, var(--ink))"
        />
        <circle :cx="x(crossing.date)" :cy="y(floor)" r="4" fill="var(--wrong, var(--ink))" />
      </g>
      <text v-for="d in told" :key="d.date" :x="x(d.date)" :y="HEIGHT - 6" text-anchor="middle">
        {{ shortDay(d.date) }}
      </text>
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
