<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { MeasuresAnswer, PartAnswer } from '~~/contract/measures'
import { MEASURE_NAMES, MEASURES, PARTS, type Measure, type Part } from '~~/core/measures'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { call, problemText, urlOf } from '~/utils/api'
import { dateText, wholeText } from '~/utils/format'

/** Measures of collection: today against the last month end and the target, and over a year. */
const query = reactive({
  months: 3,
  class: '',
  country: '',
  by: '' as '' | 'controller' | 'class' | 'country',
})
const answer = ref<MeasuresAnswer | null>(null)
const trouble = ref('')
const shown = ref<Measure>('overdue')
const made = ref<{ part: Part; items: PartAnswer } | null>(null)
const asked = () => ({
  months: query.months,
  class: query.class || undefined,
  country: query.country || undefined,
})
let turn = 0
async function read(): Promise<void> {
  const mine = ++turn
  try {
    const told = await call(contract.measures.list, { query: { ...asked(), by: query.by || undefined } })
    if (mine !== turn) return
    answer.value = told
    made.value = null
    trouble.value = ''
  } catch (error) {
    if (mine === turn) trouble.value = problemText(error)
  }
}
void read().finally(holdKeys())
watch(query, () => void read())

const now = computed(() => answer.value?.points.at(-1))
/** The month end before: with it one compares. */
const before = computed(() => answer.value?.points.at(-2))
function text(name: Measure, value: number | null | undefined): string {
  if (value === null || value === undefined) return '·'
  const { unit } = MEASURES[name]
  if (unit === 'money') return wholeText(value, answer.value!.base)
  const figure = `${value < 0 ? '−' : ''}${Math.abs(value).toLocaleString(undefined, { maximumFractionDigits: 1 })}`
  return unit === 'percent' ? `${figure} %` : `${figure} days`
}
type Figures = MeasuresAnswer['points'][number]['figures']
function change(name: Measure, to: Figures | undefined, from: Figures | undefined): number | null {
  const [a, b] = [to?.[name] ?? null, from?.[name] ?? null]
  return a === null || b === null
    ? null
    : MEASURES[name].unit === 'money'
      ? a - b
      : Math.round((a - b) * 10) / 10
}
/** Better, worse or the same, said in a word. */
function wayOf(name: Measure, by: number | null): string {
  if (by === null) return ''
  if (by === 0) return 'as before'
  return by < 0 === (MEASURES[name].better === 'less') ? 'better' : 'worse'
}
const signed = (name: Measure, by: number | null) =>
  by === null ? '·' : `${by > 0 ? '+' : ''}${text(name, by)}`
function meets(name: Measure, value: number | null | undefined): boolean | null {
  const target = answer.value?.targets[name]
  if (target === undefined || value === null || value === undefined) return null
  return MEASURES[name].better === 'less' ? value <= target : value >= target
}
const trend = computed(() =>
  (answer.value?.points ?? []).map(p => ({ date: p.date, value: p.figures[shown.value] ?? null })),
)
const groups = computed(() =>
  [...(answer.value?.groups ?? [])].sort(
    (a, b) => b.points.at(-1)!.parts.receivables - a.points.at(-1)!.parts.receivables,
  ),
)
function choose(name: Measure): void {
  shown.value = name
  made.value = null
}
async function makeUp(part: Part): Promise<void> {
  const { class: ofClass, country, months } = asked()
  try {
    const items = await call(contract.measures.items, {
      query: { class: ofClass, country, months, part, date: now.value!.date },
    })
    made.value = { part, items }
  } catch (error) {
    trouble.value = problemText(error)
  }
}
const move = (by: number) => {
  const at = MEASURE_NAMES.indexOf(shown.value) + by
  choose(MEASURE_NAMES[Math.max(0, Math.min(MEASURE_NAMES.length - 1, at))]!)
}
useKeys([
  { key: 'ArrowDown', label: 'Next measure', run: () => move(1) },
  { key: 'ArrowUp', label: 'Measure before', run: () => move(-1) },
  {
    key: 'Enter',
    label: 'What it is made of',
    run: () => void makeUp(MEASURES[shown.value].parts[0]!),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>Measures</h1>
    <span
      ><label class="label" for="months">Period </label
      ><select id="months" v-model.number="query.months" class="field">
        <option :value="1">1 month</option>
        <option :value="3">3 months</option>
        <option :value="6">6 months</option>
        <option :value="12">12 months</option>
      </select></span
    >
    <CustomerFilters v-model:of-class="query.class" v-model:country="query.country" />
    <span
      ><label class="label" for="by">Side by side </label
      ><select id="by" v-model="query.by" class="field">
        <option value="">nothing</option>
        <option value="controller">controllers</option>
        <option value="class">classes</option>
        <option value="country">countries</option>
      </select></span
    >
    <span class="ml-auto flex gap-4">
      <a
        v-for="format in ['csv', 'xlsx'] as const"
        :key="format"
        class="plain"
        :href="urlOf(contract.measures.export, {}, { ...asked(), by: query.by || undefined, format })"
        >{{ format.toUpperCase() }}</a
      >
    </span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <div
    v-if="answer && now"
    class="min-h-0 flex-1 overflow-auto px-[18px]"
    tabindex="0"
    role="region"
    aria-label="Measures"
  >
    <div class="grid gap-x-8 gap-y-4 min-[1100px]:grid-cols-[max-content_minmax(0,1fr)]">
      <table class="grid-table flush self-start" data-test="measures">
        <thead>
          <tr>
            <th class="!pl-2">{{ dateText(now.date) }}</th>
            <th class="num">Now</th>
            <th class="num">Since {{ dateText(before?.date) }}</th>
            <th class="num">Target</th>
            <th class="max-sm:hidden">Year</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="name in MEASURE_NAMES"
            :key="name"
            class="link"
            :class="shown === name ? 'on' : ''"
            :data-measure="name"
            @click="choose(name)"
          >
            <td class="w-full !pl-2">
              <button class="text-left" :aria-pressed="shown === name" @click.stop="choose(name)">
                {{ MEASURES[name].label }}
              </button>
            </td>
            <td class="num font-semibold">{{ text(name, now.figures[name]) }}</td>
            <td class="num" :title="wayOf(name, change(name, now.figures, before?.figures))">
              {{ signed(name, change(name, now.figures, before?.figures)) }}
              <span class="aside">{{ wayOf(name, change(name, now.figures, before?.figures)) }}</span>
            </td>
            <td class="num">
              <template v-if="answer.targets[name] !== undefined"
                >{{ text(name, answer.targets[name]) }}
                <span :class="meets(name, now.figures[name]) ? 'aside' : 'wrong'">{{
                  meets(name, now.figures[name]) ? 'met' : 'missed'
                }}</span></template
              ><span v-else class="none">·</span>
            </td>
            <td class="max-sm:hidden">
              <SmallTrend :values="answer.points.map(p => p.figures[name] ?? null)" />
            </td>
          </tr>
        </tbody>
      </table>
      <section :aria-label="MEASURES[shown].label">
        <h2 class="mb-1">{{ MEASURES[shown].label }}</h2>
        <TrendPicture
          :points="trend"
          :target="answer.targets[shown] ?? null"
          :text="value => text(shown, value)"
          :label="MEASURES[shown].label"
        />
        <MeasureMadeOf
          class="mt-3"
          :measure="shown"
          :point="now"
          :base="answer.base"
          :chosen="made?.part ?? null"
          @choose="makeUp"
        />
      </section>
    </div>
    <table v-if="groups.length" class="grid-table flush mt-5" data-test="side-by-side">
      <thead>
        <tr>
          <th>{{ MEASURES[shown].label }}</th>
          <th class="num">Now</th>
          <th class="num">Since {{ dateText(before?.date) }}</th>
          <th class="num">Open receivables</th>
          <th class="max-sm:hidden">Year</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="g.key">
          <td class="w-full">{{ g.name }}</td>
          <td class="num font-semibold">{{ text(shown, g.points.at(-1)!.figures[shown]) }}</td>
          <td class="num">
            {{ signed(shown, change(shown, g.points.at(-1)!.figures, g.points.at(-2)?.figures)) }}
          </td>
          <td class="num">
            <Figure :amount="g.points.at(-1)!.parts.receivables" :currency="answer.base" whole />
          </td>
          <td class="max-sm:hidden"><SmallTrend :values="g.points.map(p => p.figures[shown] ?? null)" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td>All</td>
          <td class="num">{{ text(shown, now.figures[shown]) }}</td>
          <td class="num">{{ signed(shown, change(shown, now.figures, before?.figures)) }}</td>
          <td class="num"><Figure :amount="now.parts.receivables" :currency="answer.base" whole /></td>
          <td class="max-sm:hidden" />
        </tr>
      </tfoot>
    </table>
    <PartItems
      v-if="made"
      class="mt-5"
      :title="PARTS[made.part]"
      :items="made.items"
      :is-paid="made.part === 'paid'"
    />
  </div>
  <p v-else-if="!trouble" class="hint p-[18px]">Reading the ledger …</p>
</template>
