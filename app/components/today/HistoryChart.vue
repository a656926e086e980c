<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { area, line, max, scaleLinear, scalePoint, stack } from 'd3'
import { computed, ref } from 'vue'
import type { History } from '~~/contract/today'
import { amountText, dateText, wholeText } from '~/utils/format'

/** Balance by age at month ends: layers from old (below) to fresh, with the overdue target as a line. */
const props = defineProps<{ history: History }>()
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const HEIGHT = 190
const PAD = { left: 58, right: 14, top: 12, bottom: 22 }
const at = ref<number | null>(null)
// Old layers lie at the bottom, as the overdue part is read against the target.
const keys = computed(() => props.history.buckets.map((_, i) => i).reverse())
const x = computed(() =>
  scalePoint<string>()
    .domain(props.history.points.map(p => p.date))
    .range([PAD.left, Math.max(PAD.left + 1, width.value - PAD.right)]),
)
const y = computed(() =>
  scaleLinear()
    .domain([0, (max(props.history.points, p => p.amounts.reduce((a, b) => a + b, 0)) ?? 1) * 1.05])
    .range([HEIGHT - PAD.bottom, PAD.top])
    .nice(4),
)
const layers = computed(() =>
  stack<History['points'][number], number>()
    .keys(keys.value)
    .value((p, k) => p.amounts[k]!)(props.history.points)
    .map(l => ({
      key: l.key,
      d:
        area<(typeof l)[number]>()
          .x(d => x.value(d.data.date)!)
          .y0(d => y.value(d[0]))
          .y1(d => y.value(d[1]))(l) ?? '',
    })),
)
const overdueLine = computed(
  () =>
    line<History['points'][number]>()
      .x(p => x.value(p.date)!)
      .y(p => y.value(p.overdue))(props.history.points) ?? '',
)
const short = (n: number) => `${(n / 100_000_000).toLocaleString(undefined, { maximumFractionDigits: 1 })} m`
const point = computed(() => props.history.points[at.value ?? props.history.points.length - 1]!)
function hover(event: MouseEvent): void {
  const left = (event.currentTarget as SVGElement).getBoundingClientRect().left
  const xs = props.history.points.map(p => Math.abs(x.value(p.date)! - (event.clientX - left)))
  at.value = xs.indexOf(Math.min(...xs))
}
</script>

<template>
  <figure ref="box" class="relative min-w-0 overflow-hidden">
    <figcaption class="mb-1 flex flex-wrap items-baseline gap-x-4">
      <span class="font-semibold">Balance by age at month ends</span
      ><span class="cents"
        >{{ dateText(point.date) }}: overdue
        <b class="font-semibold text-ink">{{ wholeText(point.overdue, history.base) }}</b> of
        {{
          wholeText(
            point.amounts.reduce((a, b) => a + b, 0),
            history.base,
          )
        }}</span
      ><span v-if="history.target" class="cents"
        ><svg width="22" height="8" class="mr-1.5 inline-block" aria-hidden="true">
          <line x1="0" x2="22" y1="4" y2="4" stroke="var(--ink)" stroke-dasharray="4 3" /></svg
        >target for overdue {{ short(history.target) }}</span
      >
    </figcaption>
    <svg
      v-if="width"
      :width="width"
      :height="HEIGHT"
      role="img"
      aria-label="Balance by age at the last month ends; the figures are in the table for screen readers"
      @mousemove="hover"
      @mouseleave="at = null"
    >
      <g v-for="t in y.ticks(4)" :key="t">
        <line :x1="PAD.left" :x2="width - PAD.right" :y1="y(t)" :y2="y(t)" stroke="var(--rule)" />
        <text :x="PAD.left - 8" :y="y(t) + 4" text-anchor="end" fill="var(--ink-faint)" font-size="11">
          {{ t ? short(t) : '0' }}
        </text>
      </g>
      <path v-for="l in layers" :key="l.key" :d="l.d" :fill="`var(--age-${l.key})`" />
      <path :d="overdueLine" fill="none" stroke="var(--ink)" stroke-width="1.5" />
      <template v-if="history.target">
        <line
          :x1="PAD.left"
          :x2="width - PAD.right"
          :y1="y(history.target)"
          :y2="y(history.target)"
          stroke="var(--ink)"
          stroke-dasharray="4 3"
        />
      </template>
      <line
        v-if="at !== null"
        :x1="x(point.date)"
        :x2="x(point.date)"
        :y1="PAD.top"
        :y2="HEIGHT - PAD.bottom"
        stroke="var(--ink-soft)"
      />
      <text
        v-for="(p, i) in history.points"
        v-show="i % 2 === 0 || width > 700"
        :key="p.date"
        :x="x(p.date)"
        :y="HEIGHT - 6"
        :text-anchor="i === history.points.length - 1 ? 'end' : 'middle'"
        fill="var(--ink-faint)"
        font-size="11"
      >
        {{ i === history.points.length - 1 ? 'today' : dateText(p.date).slice(3, 6) }}
      </text>
    </svg>
    <table class="sr-only">
      <caption>
        Balance by age at month ends
      </caption>
      <tbody>
        <tr v-for="p in history.points" :key="p.date">
          <th>{{ dateText(p.date) }}</th>
          <td v-for="(a, i) in p.amounts" :key="i">
            {{ history.buckets[i]!.label }} {{ amountText(a, history.base) }}
          </td>
        </tr>
      </tbody>
    </table>
  </figure>
</template>
