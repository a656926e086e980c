<script setup lang="ts">
import { area, curveStepAfter, extent, line, scaleLinear } from 'd3'
import { computed } from 'vue'
import { useTimePicture } from '~/composables/timePicture'
import { dateText, shortDay, wholeText } from '~/utils/format'

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
const PAD = { height: 208, left: 92, right: 34, top: 12, bottom: 22 }
const { box, width, x, range, at, hover } = useTimePicture(() => props.days.map(d => d.date), PAD)
const y = computed(() => {
  const values = [...props.days.flatMap(d => [d.p10, d.p90]), props.floor]
  const [low, high] = extent(values) as [number, number]
  return scaleLinear([low, high > low ? high : low + 1], range).nice(4)
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
      <b class="num font-semibold text-ink">{{ wholeText(pointed.p50, currency, true) }}</b>, between
      {{ wholeText(pointed.p10, currency) }} and {{ wholeText(pointed.p90, currency) }} in four of five cases;
      below the floor by then: {{ Math.round(pointed.below * 100) }} %
    </figcaption>
    <svg
      v-if="width"
      :width="width"
      :height="PAD.height"
      role="img"
      aria-label="Money at the bank, day by day; its figures by week are in the table"
      @mousemove="hover"
      @mouseleave="at = null"
    >
      <ValueAxis
        :ticks="y.ticks(4)"
        :y="y"
        :from="PAD.left"
        :to="width - PAD.right"
        :text="t => wholeText(t, currency)"
      />
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
          :y2="PAD.height - PAD.bottom"
          stroke="var(--wrong, var(--ink))"
        />
        <circle :cx="x(crossing.date)" :cy="y(floor)" r="4" fill="var(--wrong, var(--ink))" />
      </g>
      <text v-for="d in told" :key="d.date" :x="x(d.date)" :y="PAD.height - 6" text-anchor="middle">
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
