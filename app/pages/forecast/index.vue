<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { ForecastAnswer, KeptWhatIf } from '~~/contract/forecast'
import { SOURCE_NAMES, SOURCES, type Source } from '~~/core/forecast'
import { useForecastRun } from '~/composables/forecastRun'
import { useForecastWorker } from '~/composables/forecastWorker'
import { useGuard } from '~/composables/guard'
import { usePart } from '~/composables/part'
import { useWhatIf, type Change } from '~/composables/whatIf'
import { useSession } from '~/stores/session'
import { call, problemText, urlOf } from '~/utils/api'
import { amountText, dateText, wholeText } from '~/utils/format'

/** Cash that will come: when, and how sure. */
const PARTS = {
  weeks: 'Weeks',
  customers: 'Customers',
  compared: 'Side by side',
  planned: 'Payments out',
  tested: 'How right',
} as const
const session = useSession()
const route = useRoute()
const { part } = usePart(PARTS, 'weeks')
const query = reactive({
  asOf: String(route.query.asOf ?? session.today),
  weeks: Number(route.query.weeks ?? 13),
  currency: String(route.query.currency ?? ''),
  by: 'week' as 'week' | 'day',
  without: [] as Source[],
})
const counted = computed(() => SOURCE_NAMES.filter(s => !query.without.includes(s)))
/** What is asked of the server; of a URL the sources are one text. */
const ask = computed(() => ({
  asOf: query.asOf || undefined,
  weeks: query.weeks,
  currency: query.currency || undefined,
  by: query.by,
}))
const urlQuery = computed(() => ({ ...ask.value, sources: counted.value.join(',') }))
const base = ref<ForecastAnswer | null>(null)
const changed = ref<ForecastAnswer | null>(null)
const { busy, share, trouble, go, stop } = useForecastRun()
const { changes, body, add, remove, clear } = useWhatIf()
const { isReady, prepare, tryHere } = useForecastWorker()

/** What-ifs are tried in the page once it has the house; whatever is in the way of that is told. */
async function prepareWorker(): Promise<void> {
  try {
    await prepare(urlQuery.value)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
async function load(): Promise<void> {
  const answer = await go((run, signal) =>
    call(contract.forecast.read, { query: { ...urlQuery.value, run }, signal }),
  )
  if (!answer) return
  base.value = answer
  changed.value = null
  void prepareWorker()
  if (changes.value.length) await tryIt()
}
watch(urlQuery, load, { immediate: true })
async function tryIt(): Promise<void> {
  if (!changes.value.length) {
    changed.value = null
    return
  }
  const answer = await go(async (run, signal): Promise<ForecastAnswer> => {
    const here = await tryHere(body.value, query.by)
    if (here) return { ...base.value!, ...here }
    return call(contract.forecast.whatIf, {
      body: { query: { ...ask.value, sources: counted.value, run }, whatIf: body.value },
      signal,
    })
  })
  if (answer) changed.value = answer
  // What cannot be tried is not left standing as if it had been.
  else if (trouble.value) remove(changes.value.length - 1)
}
async function change(next: Change): Promise<void> {
  add(next)
  await tryIt()
}
async function without(place: number): Promise<void> {
  remove(place)
  await tryIt()
}
function asItIs(): void {
  clear()
  changed.value = null
}
const { trouble: refused, guard } = useGuard()
const keep = (name: string): Promise<void> =>
  guard(
    () => call(contract.forecast.keepWhatIf, { body: { name, whatIf: body.value } }),
    `${name} is kept: it stands side by side with the others.`,
  )
async function show(kept: KeptWhatIf): Promise<void> {
  part.value = 'weeks'
  clear()
  await change({ words: kept.name, body: kept.whatIf })
}
/** What the changes do to the end, and to the chance of falling below the floor. */
const effect = computed(() => {
  const [before, after] = [base.value?.balance.at(-1), changed.value?.balance.at(-1)]
  if (!before || !after) return ''
  const per = (chance: number): string => `${Math.round(chance * 100)} %`
  const moved = wholeText(after.p50 - before.p50, base.value!.currency, true)
  const sooner = changed.value!.learnt.sooner
  const reminders = sooner === null ? '' : `; by what worked, reminders bring money ${sooner} days sooner`
  return `${moved} in the end; below the floor ${per(before.below)} → ${per(after.below)}${reminders}`
})
const shown = computed(() => changed.value ?? base.value)
function toggle(source: Source): void {
  query.without = query.without.includes(source)
    ? query.without.filter(s => s !== source)
    : [...query.without, source]
}
const currencies = computed(() => [...new Set([session.base, ...(session.settings?.currencies ?? [])])])
const last = computed(() => shown.value?.balance.at(-1))
const sending = ref(false)
/** A figure is open beneath the table. */
const isOpened = ref(false)
</script>

<template>
  <PartsHead v-model="part" title="Forecast" :parts="PARTS">
    <span v-if="base" class="ml-auto flex gap-3"
      ><button v-if="session.can('forecast.plan')" class="plain" @click="sending = true">Send</button
      ><a class="plain" :href="urlOf(contract.forecast.sheet, {}, urlQuery)" target="_blank">PDF</a
      ><a
        v-for="format in ['csv', 'xlsx'] as const"
        :key="format"
        class="plain"
        :href="urlOf(contract.forecast.file, {}, { ...urlQuery, format })"
        >{{ format.toUpperCase() }}</a
      ></span
    >
  </PartsHead>
  <ShareForm v-if="sending" :query="{ ...ask, sources: counted }" @done="sending = false" />
  <p v-if="trouble || refused" class="wrong px-[18px] pb-1" role="alert">{{ trouble || refused }}</p>
  <p v-if="busy && share !== null" class="flex items-baseline gap-3 px-[18px]" role="status">
    <progress class="w-40" :value="share" aria-label="How much is worked out" />
    <span class="text-soft">{{ Math.round(share * 100) }} % is worked out</span>
    <button class="plain" @click="stop">Stop</button>
  </p>
  <template v-if="part === 'weeks'">
    <div class="filters">
      <span class="flex items-baseline gap-1.5"
        ><label class="label" for="forecast-day">From</label
        ><DateField
          id="forecast-day"
          v-model="query.asOf"
          label="Forecast of"
          :today="session.today"
          :max="session.today"
      /></span>
      <span
        ><select v-model.number="query.weeks" class="field" aria-label="Weeks ahead">
          <option v-for="n in [4, 8, 13, 26]" :key="n" :value="n">{{ n }} weeks</option>
        </select></span
      >
      <span
        ><select v-model="query.by" class="field" aria-label="By weeks or days">
          <option value="week">by weeks</option>
          <option value="day">by days</option>
        </select></span
      >
      <span
        ><select v-model="query.currency" class="field" aria-label="Currency">
          <option value="">all, in {{ session.base }}</option>
          <option v-for="c in currencies" :key="c" :value="c">{{ c }} alone</option>
        </select></span
      >
      <span class="flex flex-wrap gap-x-3"
        ><label v-for="s in SOURCE_NAMES" :key="s" class="inline-flex items-baseline gap-1 text-soft"
          ><input
            type="checkbox"
            class="tick self-center"
            :checked="!query.without.includes(s)"
            @change="toggle(s)"
          />{{ SOURCES[s].label }}</label
        ></span
      >
    </div>
    <template v-if="shown">
      <p class="px-[18px] pb-1" data-test="told">
        <template v-if="shown.start !== null && last"
          >{{ amountText(shown.start, shown.currency, true) }} at the bank, in {{ query.weeks }} weeks about
          <b class="font-semibold">{{ wholeText(last.p50, shown.currency, true) }}</b>.
          <b v-if="shown.crossing" class="wrong font-semibold"
            >By {{ dateText(shown.crossing.date) }} the floor of
            {{ wholeText(shown.floor, shown.currency) }} may be crossed, in the end with a chance of
            {{ Math.round(shown.crossing.chance * 100) }} %.</b
          ><span v-else class="text-soft"
            >The floor of {{ wholeText(shown.floor, shown.currency) }} is not in danger ({{
              Math.round(last.below * 100)
            }}
            %).</span
          ></template
        ><span v-else class="text-soft">There is no bank account: only what comes and goes is told.</span>
        <span v-if="shown.learnt.withoutRate.length" class="wrong">
          Without a rate, and left out: {{ shown.learnt.withoutRate.join(', ') }}.</span
        ><span v-if="shown.learnt.items < 50" class="wrong">
          Little was ever invoiced here: this is mostly the terms, and the bands are wide.</span
        >
      </p>
      <WhatIfStrip
        :changes="changes"
        :data-here="isReady"
        :effect="effect"
        :busy="busy"
        @add="change"
        @remove="without"
        @clear="asItIs"
        @keep="keep"
      />
      <div v-if="shown.balance.length && !isOpened" class="flex-none px-[18px]">
        <BalancePicture
          :days="shown.balance"
          :base="changed ? (base?.balance ?? null) : null"
          :floor="shown.floor"
          :crossing="shown.crossing"
          :currency="shown.currency"
        />
      </div>
      <WeekTable
        :forecast="shown"
        :query="{ asOf: ask.asOf, weeks: ask.weeks, currency: ask.currency }"
        :what-if="changed ? body : null"
        @opened="isOpen => (isOpened = isOpen)"
      />
    </template>
    <p v-else-if="busy" class="hint px-[18px]">What may come is worked out.</p>
  </template>
  <template v-else-if="part === 'customers'">
    <PayingCustomers v-if="base" :forecast="base" :loading="busy" :query="urlQuery" />
    <p v-else class="hint px-[18px]">What may come is worked out.</p>
  </template>
  <SideBySide v-else-if="part === 'compared'" :query="urlQuery" @show="show" />
  <PlannedPayments v-else-if="part === 'planned'" @changed="load" />
  <HowRight v-else />
</template>
