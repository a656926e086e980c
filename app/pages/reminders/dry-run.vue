<script setup lang="ts">
import { computed, reactive, ref, toRaw, watch } from 'vue'
import { contract } from '~~/contract'
import type { DryRunAnswer, PolicyForm } from '~~/contract/reminders'
import { addDays } from '~~/core/calendar'
import { useGuard } from '~/composables/guard'
import { useJob } from '~/composables/job'
import { useKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

/** A changed policy on weeks of the past, beside what was really sent. Nothing is kept of it. */
definePageMeta({ noCard: true })
const session = useSession()
const { trouble, complain } = useGuard()
const { job, follow, stop } = useJob()
const policies = ref<PolicyForm[]>([])
const code = ref('')
const form = ref<PolicyForm | null>(null)
const span = reactive({ from: addDays(session.today, -363), until: session.today })
const answer = ref<DryRunAnswer | null>(null)
const busy = ref(false)

fill(policies, async () => (await call(contract.reminders.policies)).items).then(() => {
  code.value ||= policies.value[0]?.code ?? ''
}, complain)
watch(code, to => {
  const found = policies.value.find(p => p.code === to)
  form.value = found ? structuredClone(toRaw(found)) : null
})
async function run(): Promise<void> {
  if (busy.value || !form.value) return
  busy.value = true
  answer.value = null
  trouble.value = ''
  try {
    const { code: own, name: _, version: __, validFrom: ___, ...policy } = form.value
    const { job: id } = await call(contract.reminders.dryRun, { body: { code: own, policy, ...span } })
    const ended = await follow(id)
    if (ended.state === 'done') answer.value = ended.result as DryRunAnswer
    else trouble.value = ended.detail
  } catch (error) {
    complain(error)
  } finally {
    busy.value = false
  }
}
const sum = (of: (d: DryRunAnswer['days'][number]) => number) =>
  (answer.value?.days ?? []).reduce((a, d) => a + of(d), 0)
const levelsOf = (list: DryRunAnswer['days']) => Math.max(0, ...list.map(d => d.byLevel.length))
const byLevel = computed(() =>
  Array.from({ length: levelsOf(answer.value?.days ?? []) }, (_, n) => sum(d => d.byLevel[n] ?? 0)),
)
const progress = computed(() => {
  const { done, total } = job.value ?? { done: 0, total: 0 }
  return total ? `${done} of ${total} customers` : 'begins'
})
const isNone = computed(() => answer.value !== null && !answer.value.letters)
useKeys([{ key: 'Ctrl+Enter', label: 'Run it', inFields: true, run: () => void run() }])
</script>

<template>
  <div class="sheet-head">
    <h1>Dry-run</h1>
    <span class="text-soft">what a policy would have sent, beside what was sent; nothing is kept of it</span>
    <NuxtLink class="plain ml-auto" to="/reminders">Runs</NuxtLink>
  </div>
  <form class="filters" @submit.prevent="run">
    <span
      ><label class="label" for="dry-policy">Policy </label
      ><select id="dry-policy" v-model="code" class="field">
        <option v-for="p in policies" :key="p.code" :value="p.code">{{ p.name }}</option>
      </select></span
    >
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="dry-from">every week from</label
      ><DateField
        id="dry-from"
        v-model="span.from"
        label="From"
        :today="session.today"
        :max="session.today"
      />
    </span>
    <span class="flex items-baseline gap-1.5"
      ><label class="label" for="dry-until">to</label
      ><DateField id="dry-until" v-model="span.until" label="To" :today="session.today" :max="session.today"
    /></span>
    <button class="go" :disabled="busy || !form" data-test="dry-run">
      Run it <span class="font-normal opacity-70">Ctrl ↵</span>
    </button>
    <span v-if="busy" class="hint" role="status"
      >{{ progress }} <button type="button" class="plain" @click="stop">Stop</button></span
    >
    <p v-if="trouble" class="wrong w-full" role="alert">{{ trouble }}</p>
  </form>
  <div class="flex min-h-0 flex-1 flex-col overflow-auto px-[18px]">
    <DryRunTerms v-if="form" v-model="form" />
    <template v-if="answer && !isNone">
      <DryRunChart :days="answer.days" />
      <table class="grid-table mt-2 max-w-[760px]" aria-label="Dry-run beside what was sent">
        <thead>
          <tr>
            <th>{{ answer.customers }} customers, in {{ answer.base }}</th>
            <th class="num">Letters</th>
            <th class="num">Overdue in them</th>
            <th class="num">Fees</th>
            <th class="num">Interest</th>
            <th>By level</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <td>It would have sent</td>
            <td class="num">{{ sum(d => d.notices) }}</td>
            <td class="num"><Figure :amount="sum(d => d.overdue)" :currency="answer.base" /></td>
            <td class="num"><Figure :amount="sum(d => d.fee)" :currency="answer.base" /></td>
            <td class="num"><Figure :amount="sum(d => d.interest)" :currency="answer.base" /></td>
            <td class="text-soft">{{ byLevel.map((n, i) => `${i + 1}: ${n}`).join(', ') }}</td>
          </tr>
          <tr>
            <td>Was really sent</td>
            <td class="num">{{ sum(d => d.sent.notices) }}</td>
            <td class="num"><Figure :amount="sum(d => d.sent.overdue)" :currency="answer.base" /></td>
            <td class="num"><Figure :amount="sum(d => d.sent.fee)" :currency="answer.base" /></td>
            <td class="num"><Figure :amount="sum(d => d.sent.interest)" :currency="answer.base" /></td>
            <td />
          </tr>
        </tbody>
      </table>
      <p class="hint my-2">
        Levels follow from its own letters; money came when it came. Who would have paid sooner for another
        letter nobody knows.
      </p>
      <details class="mb-4">
        <summary class="plain">
          {{ plural(answer.notices.length, 'letter') }} of {{ answer.letters }}, the newest first
        </summary>
        <table class="grid-table mt-1 max-w-[760px]" aria-label="Letters of the dry-run">
          <thead>
            <tr>
              <th>On</th>
              <th>Customer</th>
              <th class="num">Level</th>
              <th class="num">Overdue</th>
              <th class="num">Fee</th>
              <th class="num">Interest</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(n, i) in answer.notices" :key="i">
              <td>{{ dateText(n.on) }}</td>
              <td>
                <NuxtLink class="makes name" :to="`/accounts/${n.customer.number}`">{{
                  n.customer.name
                }}</NuxtLink>
              </td>
              <td class="num">{{ n.level }}</td>
              <td class="num">
                <Figure :amount="n.total" :currency="n.currency" /><span class="aside ml-1">{{
                  n.currency
                }}</span>
              </td>
              <td class="num"><Figure :amount="n.fee" :currency="n.currency" /></td>
              <td class="num"><Figure :amount="n.interest" :currency="n.currency" /></td>
            </tr>
          </tbody>
        </table>
      </details>
    </template>
    <p v-else-if="isNone" class="hint">
      It would have sent nothing in this time. Let its levels begin earlier, or look at another year.
    </p>
  </div>
</template>
