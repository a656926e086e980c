<script setup lang="ts">
import { scaleLinear } from 'd3'
import { computed, ref } from 'vue'
import { contract } from '~~/contract'
import type { WorkedAnswer } from '~~/contract/reminders'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Cash that came after each level of each policy, beside items left alone at the same age. */
definePageMeta({ noCard: true })
const answer = ref<WorkedAnswer | null>(null)
const { trouble, complain } = useGuard()
void fill(answer, () => call(contract.reminders.worked)).catch(complain)
const DAYS = [7, 14, 30] as const
const percent = (share: number | null) => (share === null ? '–' : `${Math.round(share * 100)} %`)
const WIDTH = 130
const inWords = (r: WorkedAnswer['items'][number]) =>
  `${percent(r.share[2]!)} of what was reminded came within 30 days, ` +
  `${percent(r.alone.share[2]!)} of what was left alone`
const x = scaleLinear([0, 1], [0, WIDTH])
const rows = computed(() => answer.value?.items ?? [])
</script>

<template>
  <div class="sheet-head">
    <h1>What worked</h1>
    <span v-if="answer" class="text-soft"
      >notices on items due from {{ dateText(answer.since) }} to {{ dateText(answer.until) }}, in
      {{ answer.base
      }}<template v-if="answer.every > 1">; every {{ answer.every }}th customer</template></span
    >
    <NuxtLink class="plain ml-auto" to="/reminders">Runs</NuxtLink>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <div class="overflow-auto">
    <table class="grid-table" aria-label="Cash after each level">
      <thead>
        <tr>
          <th>Policy</th>
          <th class="num">Level</th>
          <th class="num">Items reminded</th>
          <th class="num">Claimed</th>
          <th v-for="d in DAYS" :key="d" class="num">Came in {{ d }} days</th>
          <th>Within 30 days: reminded, and left alone</th>
          <th class="num">Left alone at that age</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="`${r.policy} ${r.level}`">
          <td>{{ r.policy }}</td>
          <td class="num">{{ r.level }}</td>
          <td class="num">{{ r.notices }}</td>
          <td class="num"><Figure :amount="r.claimed" :currency="answer!.base" /></td>
          <td v-for="(d, n) in DAYS" :key="d" class="num">
            {{ percent(r.share[n]!) }}
            <span class="aside ml-1"><Figure :amount="r.collected[n]!" :currency="answer!.base" /></span>
          </td>
          <td>
            <svg :width="WIDTH + 90" height="28" role="img" :aria-label="inWords(r)">
              <rect x="0" y="3" height="9" :width="x(r.share[2] ?? 0)" fill="var(--accent)" />
              <text :x="x(r.share[2] ?? 0) + 4" y="11" class="fill-current text-[10.5px]">
                {{ percent(r.share[2]!) }} reminded
              </text>
              <template v-if="r.alone.share[2] !== null">
                <rect x="0" y="16" height="9" :width="x(r.alone.share[2]!)" fill="var(--age-2)" />
                <text :x="x(r.alone.share[2]!) + 4" y="24" class="fill-current text-[10.5px]">
                  {{ percent(r.alone.share[2]!) }} alone
                </text>
              </template>
            </svg>
          </td>
          <td class="num">
            {{ percent(r.alone.share[2]!) }}<span class="aside ml-1">of {{ r.alone.count }}</span>
          </td>
        </tr>
        <tr v-if="answer && !rows.length">
          <td colspan="9" class="text-soft">
            No notice went out on these items yet: there is nothing to compare.
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <p class="hint px-[18px] py-3">
    Left alone: items of the same age in weeks that nobody wrote about for thirty days before and after. It
    compares; it does not prove: those who are reminded differ from those who are not. Days that are not over
    yet do not count.
  </p>
</template>
