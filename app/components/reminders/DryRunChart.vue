<script setup lang="ts">
import { max, scaleBand, scaleLinear } from 'd3'
import { computed } from 'vue'
import type { DryRunAnswer } from '~~/contract/reminders'
import { dateText } from '~/utils/format'

/** Letters week by week: what a policy would have sent as bars, what was sent as marks. */
const props = defineProps<{ days: DryRunAnswer['days'] }>()
const WIDTH = 1040
const HEIGHT = 150
const LEFT = 34
const FOOT = 20
const x = computed(() =>
  scaleBand(
    props.days.map(d => d.on),
    [LEFT, WIDTH],
  ).padding(0.22),
)
const most = computed(() => Math.max(1, max(props.days, d => Math.max(d.notices, d.sent.notices)) ?? 1))
const y = computed(() => scaleLinear([0, most.value], [HEIGHT - FOOT, 8]).nice(4))
const ticks = computed(() => y.value.ticks(4).filter(Number.isInteger))
/** A bar for each level, from the first up. */
const bars = computed(() =>
  props.days.flatMap(d => {
    let from = 0
    return d.byLevel.map((n, level) => {
      const bar = { on: d.on, level, n, top: y.value(from + n), height: y.value(from) - y.value(from + n) }
      from += n
      return bar
    })
  }),
)
const labels = computed(() => props.days.filter((_, n) => n % Math.ceil(props.days.length / 9) === 0))
</script>

<template>
  <figure class="mt-3">
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      class="w-full max-w-[1040px]"
      role="img"
      aria-label="Letters by week: what the policy would have sent, and what was sent"
    >
      <g v-for="t in ticks" :key="t">
        <line :x1="LEFT" :x2="WIDTH" :y1="y(t)" :y2="y(t)" stroke="var(--rule)" stroke-width="0.5" />
        <text :x="LEFT - 6" :y="y(t) + 3.5" text-anchor="end" class="fill-current text-[10.5px]">
          {{ t }}
        </text>
      </g>
      <rect
        v-for="b in bars"
        :key="`${b.on} ${b.level}`"
        :x="x(b.on)"
        :y="b.top"
        :width="x.bandwidth()"
        :height="b.height"
        :fill="`var(--age-${Math.min(5, b.level + 1)})`"
      >
        <title>{{ dateText(b.on) }}, level {{ b.level + 1 }}: {{ b.n }}</title>
      </rect>
      <line
        v-for="d in days.filter(day => day.sent.notices)"
        :key="d.on"
        :x1="x(d.on)! - 2"
        :x2="x(d.on)! + x.bandwidth() + 2"
        :y1="y(d.sent.notices)"
        :y2="y(d.sent.notices)"
        stroke="var(--accent)"
        stroke-width="2.5"
      >
        <title>{{ dateText(d.on) }}: {{ d.sent.notices }} sent</title>
      </line>
      <text
        v-for="d in labels"
        :key="d.on"
        :x="x(d.on)! + x.bandwidth() / 2"
        :y="HEIGHT - 5"
        text-anchor="middle"
        class="fill-current text-[10.5px]"
      >
        {{ dateText(d.on) }}
      </text>
    </svg>
    <figcaption class="hint">
      Bars: letters the policy would have sent, the first level at the bottom, the last on top. Green marks:
      what was sent in that week.
    </figcaption>
  </figure>
</template>
