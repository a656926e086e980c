<script setup lang="ts">
import type { ReviewModel } from '~~/contract/review'
import { dateText, plural } from '~/utils/format'

/** How far the probabilities can be trusted: what was said of the last year, and what came. */
defineProps<{ model: ReviewModel }>()
const percent = (share: number) => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`
</script>

<template>
  <section
    class="border-y border-rule px-[18px] py-3"
    aria-label="How good the probabilities are"
    data-test="tested"
  >
    <p>
      Learnt from {{ plural(model.observations, 'look') }} at accounts up to {{ dateText(model.asOf) }},
      {{ plural(model.cases, 'time') }} followed by more than 90 days late.
    </p>
    <template v-if="model.tested">
      <p>
        Tested on the last year with a model that ended before it: of
        {{ plural(model.tested.accounts, 'account') }} {{ model.tested.happened }} were late. Brier score
        <b>{{ model.tested.brier.toFixed(4) }}</b> against <b>{{ model.tested.brierOfBase.toFixed(4) }}</b> of
        saying {{ percent(model.tested.base) }} of all:
        {{
          model.tested.brier < model.tested.brierOfBase
            ? 'less is better, it knows more.'
            : 'it knows no more.'
        }}
      </p>
      <table class="grid-table flush mt-2 max-w-[560px]">
        <thead>
          <tr>
            <th>Said</th>
            <th class="num">Accounts</th>
            <th class="num">Said on average</th>
            <th class="num">Came</th>
            <th>Said and came</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="b in model.tested.bands" :key="b.from">
            <td>{{ percent(b.from) }} to {{ percent(b.to) }}</td>
            <td class="num">{{ b.count }}</td>
            <td class="num">{{ percent(b.said) }}</td>
            <td class="num">{{ percent(b.happened) }}</td>
            <td>
              <svg width="140" height="14" aria-hidden="true" class="align-middle">
                <rect x="0" y="1" :width="Math.max(1, b.said * 140)" height="5" fill="var(--ink-faint)" />
                <rect x="0" y="8" :width="Math.max(1, b.happened * 140)" height="5" fill="var(--age-3)" />
              </svg>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <p v-else class="hint">The ledger is too young to test it on a year that it has not seen.</p>
  </section>
</template>
