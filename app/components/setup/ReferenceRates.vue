<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { contract } from '~~/contract'
import { useGuard } from '~/composables/guard'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText } from '~/utils/format'
import { fill } from '~/utils/fill'

/** Reference rates of late interest, from a day on; what is missing is never made up. */
const session = useSession()
const { trouble, guard, complain } = useGuard()
const may = computed(() => session.can('policy.edit'))
const rates = ref<{ code: string; from: string; percent: string; source: string }[]>([])
const form = reactive({ code: 'ECB', from: session.today, percent: '', source: '' })
async function load(): Promise<void> {
  try {
    await fill(rates, async () => (await call(contract.reminders.rates)).items)
  } catch (error) {
    complain(error)
  }
}
void load()
const enter = () =>
  guard(
    async () => {
      await call(contract.reminders.setRate, { body: { ...form } })
      form.percent = ''
      await load()
    },
    `${form.code} from ${dateText(form.from)} entered.`,
  )
</script>

<template>
  <section class="mt-6 border-t border-rule pt-3" aria-labelledby="reference-rates">
    <h3 id="reference-rates">Reference rates</h3>
    <p class="hint mb-2">
      Percent a year, from a day on, for half a year. The codes of the law’s own claims are ECB, DE base and
      GB base.
    </p>
    <p v-if="trouble" class="wrong mb-2" role="alert">{{ trouble }}</p>
    <form v-if="may" class="mb-2 flex items-baseline gap-3" @submit.prevent="enter">
      <input v-model="form.code" class="field w-20" aria-label="Which rate" required maxlength="12" />
      <DateField id="rate-from" v-model="form.from" label="In force from" :today="session.today" />
      <input
        v-model="form.percent"
        class="field w-16"
        inputmode="decimal"
        placeholder="2.15"
        aria-label="Percent a year"
        required
      />
      %
      <input
        v-model="form.source"
        class="field w-[220px]"
        placeholder="where it is from"
        aria-label="Source"
        maxlength="80"
      />
      <button class="plain">Enter the rate</button>
    </form>
    <table class="grid-table max-w-[560px]" aria-label="Reference rates">
      <thead>
        <tr>
          <th>Rate</th>
          <th>From</th>
          <th class="num">Percent</th>
          <th>Source</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rates" :key="r.code + r.from">
          <td>{{ r.code }}</td>
          <td>{{ dateText(r.from) }}</td>
          <td class="num">{{ r.percent }}</td>
          <td class="text-soft">{{ r.source }}</td>
        </tr>
        <tr v-if="!rates.length">
          <td colspan="4" class="text-soft">None yet: policies with a fixed rate need none.</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>
