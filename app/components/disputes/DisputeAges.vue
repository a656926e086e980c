<script setup lang="ts">
import { ref, watch } from 'vue'
import type { DisputeReason } from '~~/core/disputes'
import { contract } from '~~/contract'
import type { DisputeSums } from '~~/contract/disputes'
import { useGuard } from '~/composables/guard'
import { call } from '~/utils/api'

/** Ages of what is disputed, and how long resolving takes, by reason, owner or fault. */
const emit = defineEmits<{ reason: [DisputeReason] }>()
const by = ref<'reason' | 'owner' | 'fault'>('reason')
const rows = ref<DisputeSums[]>([])
const base = ref('')
const { trouble, complain } = useGuard()
watch(
  by,
  async of => {
    try {
      const answer = await call(contract.disputes.sums, { query: { by: of } })
      if (of !== by.value) return
      rows.value = answer.items
      base.value = answer.base
    } catch (error) {
      complain(error)
    }
  },
  { immediate: true },
)
const AGES = ['to 7 days', '8–14', '15–30', '31–60', '61 and more']
const sum = (of: (row: DisputeSums) => number) => rows.value.reduce((a, r) => a + of(r), 0)
</script>

<template>
  <div class="filters">
    <span
      ><label class="label" for="sum-by">By </label
      ><select id="sum-by" v-model="by" class="field">
        <option value="reason">reason</option>
        <option value="owner">who sees to it</option>
        <option value="fault">whose fault it was</option>
      </select></span
    >
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <div class="overflow-auto">
    <table class="grid-table" aria-label="Ages of disputes">
      <thead>
        <tr>
          <th>{{ { reason: 'Reason', owner: 'Sees to it', fault: 'Fault' }[by] }}</th>
          <th />
          <th v-for="a in AGES" :key="a" class="num">{{ a }}</th>
          <th class="num">Open, {{ base }}</th>
          <th class="num">Disputes</th>
          <th class="num">Resolved in a year</th>
          <th class="num">Days each took</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.key">
          <td>
            <button v-if="by === 'reason'" class="makes" @click="emit('reason', r.key as DisputeReason)">
              {{ r.name }}</button><template v-else>{{ r.name }}</template>
          </td>
          <td class="w-[90px]"><Strata :amounts="r.ages" :labels="AGES" :currency="base" :width="80" /></td>
          <td v-for="(a, n) in r.ages" :key="n" class="num"><Figure :amount="a" :currency="base" whole /></td>
          <td class="num font-semibold"><Figure :amount="r.amount" :currency="base" whole zero /></td>
          <td class="num">{{ r.count }}</td>
          <td class="num">{{ r.resolved || '·' }}</td>
          <td class="num">{{ r.days ?? '·' }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td>All</td>
          <td />
          <td v-for="(_, n) in AGES" :key="n" class="num">
            <Figure :amount="sum(r => r.ages[n]!)" :currency="base" whole />
          </td>
          <td class="num"><Figure :amount="sum(r => r.amount)" :currency="base" whole zero /></td>
          <td class="num">{{ sum(r => r.count) }}</td>
          <td class="num">{{ sum(r => r.resolved) }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
  </div>
</template>
