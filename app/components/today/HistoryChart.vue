<script setup lang="ts">
import { area, line, max, scaleLinear, stack } from 'd3'
import { computed } from 'vue'
import { useTimePicture } from '~/composables/timePicture'
import type { History } from '~~/contract/today'
import { toMajor } from '~~/core/money'
import { amountText, dateText, wholeText } from '~/utils/format'

/** Balance by age at month ends: layers from old (below) to fresh, with the overdue target as a line. */
const props = defineProps<{ history: History }>()
const PAD = { height: 190, left: 58, right: 14, top: 12, bottom: 22 }
const { box, width, x, range, at, hover } = useTimePicture(() => props.history.points.map(p => p.date), PAD)
// Old layers lie at the bottom, as the overdue part is read against the target.
const keys = computed(() => props.history.buckets.map((_, i) => i).reverse())
const y = computed(() =>
  scaleLinear()
    .domain([0, (max(props.history.points, p => p.amounts.reduce((a, b) => a + b, 0)) ?? 1) * 1.05])
    .range(range)
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
/** In millions of whole units: "1.2 m". */
const short = (n: number): string =>
  `${(Number(toMajor(n, props.history.base)) / 1e6).toLocaleString(undefined, { maximumFractionDigits: 1 })} m`
const point = computed(() => props.history.points[at.value ?? props.history.points.length - 1]!)
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
      :height="PAD.height"
      role="img"
      aria-label="Balance by age at the last month ends; the figures are in the table for screen readers"
      @mousemove="hover"
      @mouseleave="at = null"
    >
      <ValueAxis
        :ticks="y.ticks(4)"
        :y="y"
        :from="PAD.left"
        :to="width - PAD.right"
        :text="t => (t ? short(t) : '0')"
      />
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
        :y2="PAD.height - PAD.bottom"
        stroke="var(--ink-soft)"
      />
      <text
        v-for="(p, i) in history.points"
        v-show="i % 2 === 0 || width > 700"
        :key="p.date"
        :x="x(p.date)"
        :y="PAD.height - 6"
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
