<script setup lang="ts">
import { scaleLinear } from 'd3'
import { computed } from 'vue'
import type { Concentration } from '~~/contract/exposure'
import { wholeText } from '~/utils/format'

/** The largest ten accounts as bars to one scale, with their shares of all; classes and countries beside. */
const props = defineProps<{ of: Concentration }>()
const emit = defineEmits<{ open: [number: string] }>()
const scale = computed(() => scaleLinear([0, props.of.largest[0]?.exposure ?? 1], [0, 100]))
const share = computed(() => {
  const sum = props.of.largest.reduce((a, l) => a + l.exposure, 0)
  return props.of.total ? ((100 * sum) / props.of.total).toFixed(1) : '0'
})
const titleOf = ({ exposure, limit }: Concentration['largest'][number]) =>
  [exposure, ...(limit === null ? [] : [limit])]
    .map((amount, i) => `${i ? 'limit ' : ''}${wholeText(amount, props.of.base)} ${props.of.base}`)
    .join(', ')
const tops = computed(() => [
  { head: 'By class', rows: props.of.byClass.slice(0, 5) },
  { head: 'By country', rows: props.of.byCountry.slice(0, 5) },
])
</script>

<template>
  <div
    class="grid grid-cols-[minmax(0,1fr)_150px_90px] gap-x-7 px-[18px] pb-3 max-[900px]:grid-cols-1"
    data-test="concentration"
  >
    <section>
      <h6 class="part-head mb-1">
        The largest ten, {{ share }} % of {{ wholeText(of.total, of.base) }} {{ of.base }}
      </h6>
      <ol class="grid grid-flow-col grid-cols-2 grid-rows-5 gap-x-6">
        <li v-for="l in of.largest" :key="l.key">
          <button
            class="flex w-full items-center gap-2 leading-[24px] hover:bg-row"
            :title="titleOf(l)"
            @click="emit('open', l.key)"
          >
            <span class="min-w-0 flex-1 truncate text-left">{{ l.name }}</span><span
              class="h-[9px] w-[74px]"
              aria-hidden="true"
              ><span
                class="block h-full"
                :style="{
                  width: `${scale(l.exposure)}%`,
                  background: l.limit !== null && l.exposure > l.limit ? 'var(--age-4)' : 'var(--age-2)',
                }" /></span
            ><span class="num w-[44px] whitespace-nowrap">{{ l.share.toFixed(1) }} %</span>
          </button>
        </li>
      </ol>
    </section>
    <section v-for="top in tops" :key="top.head">
      <h6 class="part-head mb-1">{{ top.head }}</h6>
      <p v-for="r in top.rows" :key="r.key" class="flex justify-between gap-2 leading-[24px]">
        <span class="truncate">{{ r.name }}</span><span class="num whitespace-nowrap"
          >{{ r.share.toFixed(1) }} %</span
        >
      </p>
    </section>
  </div>
</template>
