<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { contract } from '~~/contract'
import type { History, TodayAnswer } from '~~/contract/today'
import { useKeys } from '~/composables/keys'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { dateText, plural } from '~/utils/format'
import { fill } from '~/utils/fill'

const desk = useDesk()
const session = useSession()
const day = ref<TodayAnswer | null>(null)
const history = ref<History | null>(null)
const trouble = ref('')
const at = ref(0)
onMounted(async () => {
  try {
    await fill(day, () => call(contract.today.today))
    await fill(history, () => call(contract.today.history))
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const signsFirst = computed(() => day.value?.todo[0]?.kind === 'sign-off' && session.can('signOff.sign'))
const change = computed(() => (day.value ? day.value.overdue - day.value.monthEnd.overdue : 0))
const weekday = computed(() =>
  new Intl.DateTimeFormat('en-GB', { weekday: 'long', timeZone: 'UTC' }).format(
    Date.parse(`${day.value?.today ?? '2026-01-01'}T00:00:00Z`),
  ),
)
const move = (to: number) => {
  at.value = Math.max(0, Math.min((day.value?.newlyOverdue.items.length ?? 1) - 1, to))
  const row = day.value?.newlyOverdue.items[at.value]
  if (row) void desk.choose(row.customer.number)
}
useKeys([
  { key: 'ArrowDown', label: 'Next item', run: () => move(at.value + 1) },
  { key: 'ArrowUp', label: 'Item before', run: () => move(at.value - 1) },
  {
    key: 'Enter',
    label: 'Open the account',
    run: () => {
      const row = day.value?.newlyOverdue.items[at.value]
      if (row) void navigateTo(`/accounts/${row.customer.number}`)
    },
  },
])
</script>

<template>
  <div class="min-h-0 flex-1 overflow-auto px-[18px] pb-8">
    <p v-if="trouble" class="wrong pt-6">{{ trouble }}</p>
    <p v-else-if="!day" class="hint pt-6">Reading the ledger …</p>
    <template v-else>
      <div class="flex flex-wrap items-baseline gap-x-4 pb-3 pt-[14px]">
        <h1>{{ weekday }}, {{ dateText(day.today) }}</h1>
        <span class="hint">{{ day.company }}, all figures in {{ day.base }}</span>
      </div>
      <FirstSteps v-if="session.can('policy.edit')" />
      <FloorAlert v-if="session.can('forecast.plan')" />
      <div class="grid grid-cols-2 gap-x-8 gap-y-4 border-y border-rule py-4 md:grid-cols-4">
        <div>
          <p class="label">Overdue</p>
          <button
            class="makes font-serif text-[26px] leading-tight"
            data-test="overdue"
            @click="desk.makeUp = { title: 'Overdue', query: { bucket: 'overdue' } }"
          >
            <Figure :amount="day.overdue" :currency="day.base" whole zero />
          </button>
          <p :class="day.target && day.overdue > day.target ? 'wrong' : 'hint'">
            <template v-if="day.target"
              ><Figure :amount="Math.abs(day.overdue - day.target)" :currency="day.base" whole zero />
              {{ day.overdue > day.target ? 'over' : 'under' }} the target of
              <Figure :amount="day.target" :currency="day.base" whole /></template
            ><template v-else>no target set yet</template>
          </p>
        </div>
        <div>
          <p class="label">Since {{ dateText(day.monthEnd.date) }}</p>
          <NuxtLink
            class="makes font-serif text-[26px] leading-tight"
            :to="`/aging?asOf=${day.monthEnd.date}`"
            :title="`aging as of ${dateText(day.monthEnd.date)}`"
            >{{ change > 0 ? '+' : '' }}<Figure :amount="change" :currency="day.base" whole zero
          /></NuxtLink>
          <p class="hint">
            overdue then <Figure :amount="day.monthEnd.overdue" :currency="day.base" whole zero />
          </p>
        </div>
        <div>
          <p class="label">Open</p>
          <button
            class="makes font-serif text-[26px] leading-tight"
            @click="desk.makeUp = { title: 'Open', query: { bucket: 'all' } }"
          >
            <Figure :amount="day.open" :currency="day.base" whole zero />
          </button>
          <p class="hint">
            <button
              class="makes min-h-6"
              @click="desk.makeUp = { title: 'On account', query: { bucket: 'onAccount' } }"
            >
              <Figure :amount="day.onAccount" :currency="day.base" whole cr zero /> on account
            </button>
          </p>
        </div>
        <div>
          <p class="label">Received this month</p>
          <NuxtLink class="makes font-serif text-[26px] leading-tight" to="/receipts"
            ><Figure :amount="day.receivedThisMonth" :currency="day.base" whole zero
          /></NuxtLink>
          <p class="hint">since {{ dateText(day.monthEnd.date) }}</p>
        </div>
      </div>
      <Strata
        class="mt-4"
        :amounts="day.amounts"
        :labels="day.buckets.map(b => b.label)"
        :currency="day.base"
        :height="9"
      />
      <div
        class="grid gap-[2px] pb-4"
        :style="{ gridTemplateColumns: 'repeat(auto-fit, minmax(96px, 1fr))' }"
      >
        <button
          v-for="(a, i) in day.amounts"
          :key="i"
          class="pt-1 text-left"
          @click="desk.makeUp = { title: day!.buckets[i]!.label, query: { bucket: String(i) as '0' } }"
        >
          <span class="label block"
            ><i
              class="mr-1.5 inline-block h-[8px] w-[8px]"
              :style="{ background: `var(--age-${i})` }"
              aria-hidden="true"
            />{{ day.buckets[i]!.label }}</span
          ><b class="makes text-[14.5px] font-semibold"
            ><Figure :amount="a" :currency="day.base" whole zero
          /></b>
        </button>
      </div>
      <div
        class="grid gap-x-10 gap-y-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)]"
        :class="desk.cardOpen && desk.customer ? '!grid-cols-1' : ''"
      >
        <section>
          <!-- Whoever signs: others wait for that, so it comes before what moved. -->
          <div class="flex" :class="signsFirst ? 'flex-col-reverse' : 'flex-col'">
            <div v-if="day.moved.length" class="mb-5">
              <h2 class="mb-2">
                What moved
                <span class="hint font-sans text-[13px]">since {{ dateText(day.since) }}</span>
              </h2>
              <TodayLines :lines="day.moved" :base="day.base" data-test="moved" />
            </div>
            <div class="mb-5">
              <h2 class="mb-2">What to do next</h2>
              <TodayLines :lines="day.todo" :base="day.base" data-test="todo" />
              <p v-if="!day.todo.length" class="hint border-t border-rule py-2">
                {{
                  session.can('books.read')
                    ? 'Nothing waits for you. The call list of tomorrow is in Aging.'
                    : 'Your customers are in Aging.'
                }}
              </p>
            </div>
          </div>
        </section>
        <section>
          <h2 class="mb-2">
            Newly overdue
            <span class="hint font-sans text-[13px]"
              >since {{ dateText(day.newlyOverdue.since) }},
              {{ plural(day.newlyOverdue.count, 'item') }}</span
            >
          </h2>
          <table class="grid-table flush">
            <tbody>
              <tr
                v-for="(i, n) in day.newlyOverdue.items"
                :key="i.id"
                class="link"
                :class="n === at && desk.customer === i.customer.number ? 'on' : ''"
                @click="move(n)"
                @dblclick="navigateTo(`/accounts/${i.customer.number}`)"
              >
                <td class="cut name w-1/2">{{ i.customer.name }}</td>
                <td>{{ i.number }}</td>
                <td class="num">{{ i.daysLate }} {{ i.daysLate === 1 ? 'day' : 'days' }}</td>
                <td class="num"><Figure :amount="i.open" :currency="day.base" /></td>
              </tr>
            </tbody>
            <tfoot v-if="day.newlyOverdue.count">
              <tr>
                <td colspan="3">
                  All {{ day.newlyOverdue.count
                  }}<template v-if="day.newlyOverdue.count > day.newlyOverdue.items.length"
                    >, the largest {{ day.newlyOverdue.items.length }} shown</template
                  >
                </td>
                <td class="num"><Figure :amount="day.newlyOverdue.total" :currency="day.base" /></td>
              </tr>
            </tfoot>
          </table>
          <p v-if="!day.newlyOverdue.count" class="hint border-t border-rule py-2">
            Nothing fell overdue since the last working day.
          </p>
          <HistoryChart v-if="history" class="mt-6" :history="history" />
          <div v-else class="mt-6 h-[212px]" />
        </section>
      </div>
    </template>
  </div>
</template>
