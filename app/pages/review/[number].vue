<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { contract } from '~~/contract'
import type { AccountReview } from '~~/contract/review'
import { RISK_CLASSES } from '~~/core/accounts'
import { addMonths } from '~~/core/calendar'
import { SCORE_PARTS } from '~~/core/review'
import { useGuard } from '~/composables/guard'
import { useKeys } from '~/composables/keys'
import { holdKeys } from '~/composables/typeAhead'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { dateText, proseText } from '~/utils/format'
import { probabilityText } from '~/utils/reviewText'
import { newest } from '~/utils/fill'

/** The review of one account: how it pays, what that makes of it, what is suggested and why. */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const { trouble, complain } = useGuard()
const busy = ref(false)
const number = computed(() => String(route.params.number))
const review = ref<AccountReview | null>(null)
const form = reactive({
  limit: null as number | null,
  riskClass: '',
  reviewDate: '',
  reason: '',
})
const asking = newest()
async function read(): Promise<void> {
  const isNewest = asking()
  try {
    const told = await call(contract.review.account, { params: { number: number.value } })
    if (!isNewest()) return
    review.value = told
    Object.assign(form, {
      limit: told.suggestion?.limit ?? told.limit,
      riskClass: told.suggestion?.riskClass ?? told.riskClass,
      reviewDate: addMonths(told.today, told.suggestion?.months ?? 6),
      reason: '',
    })
    void desk.choose(told.customer.number)
  } catch (error) {
    complain(error)
  }
}
watch(number, () => void read())
void read().finally(holdKeys())
const may = computed(() => session.can('customers.edit'))
const classes = Object.entries(RISK_CLASSES)
const score = computed(() => review.value?.score ?? null)

/** The next account that is due, when there is one. */
async function toNext(): Promise<void> {
  const { items } = await call(contract.review.list, { query: { which: 'due', limit: 100 } })
  const at = items.findIndex(r => r.customer.number === number.value)
  const next = items[at + 1] ?? items.find(r => r.customer.number !== number.value)
  await navigateTo(next ? `/review/${encodeURIComponent(next.customer.number)}` : '/review')
}
async function accept(): Promise<void> {
  const told = review.value
  if (!told || busy.value) return
  busy.value = true
  try {
    const set = {
      ...(form.limit !== told.limit ? { creditLimit: form.limit } : {}),
      ...(form.riskClass !== told.riskClass ? { riskClass: form.riskClass } : {}),
      reviewDate: form.reviewDate || null,
    }
    const done = await call(contract.accounts.change, {
      params: { number: told.customer.number },
      body: { version: told.version, set, reason: form.reason || 'review' },
    })
    trouble.value = ''
    desk.say({
      text: `${told.customer.name} reviewed.${done.waiting ? ' The limit waits for Sign-off.' : ''}`,
      ...(done.waiting ? { to: '/sign-off', action: 'Sign-off' } : {}),
    })
    await toNext()
  } catch (error) {
    complain(error)
  } finally {
    busy.value = false
  }
}
useKeys([
  { key: 'y', label: 'Accept', when: () => may.value, run: () => void accept() },
  { key: 'o', label: 'Next account due', run: () => void toNext() },
  { key: 'g', label: 'To the list', run: () => navigateTo('/review') },
  {
    key: 'e',
    label: 'Exposure of the account',
    run: () => navigateTo(`/exposure/${encodeURIComponent(number.value)}`),
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ review?.customer.name ?? number }}</h1>
    <span class="text-soft">{{ number }}, review</span>
    <span class="ml-auto flex gap-4">
      <NuxtLink class="plain" :to="`/exposure/${encodeURIComponent(number)}`">Exposure <kbd>E</kbd></NuxtLink>
      <NuxtLink class="plain" :to="`/accounts/${encodeURIComponent(number)}`">Account</NuxtLink>
      <NuxtLink class="plain" to="/review">All <kbd>G</kbd></NuxtLink>
      <button class="plain" @click="toNext">Next due <kbd>O</kbd></button>
    </span>
  </div>
  <p v-if="trouble" class="wrong px-[18px]" role="alert">{{ trouble }}</p>
  <div
    v-if="review"
    class="min-h-0 flex-1 overflow-auto px-[18px] pb-6"
    tabindex="0"
    role="region"
    aria-label="Review"
  >
    <p v-if="review.due.length" class="mb-3">To be reviewed: {{ proseText(review.due.join('; ')) }}.</p>
    <div class="flex flex-wrap gap-x-12 gap-y-3 border-y border-rule py-3">
      <div>
        <p class="label">Score</p>
        <p class="font-serif text-[26px] leading-tight" data-test="score">
          {{ score === null ? 'not known' : score.toFixed(1) }}
        </p>
        <p class="hint">of 100, the higher the better</p>
      </div>
      <div>
        <p class="label">More than 90 days late within a year</p>
        <p class="font-serif text-[26px] leading-tight" data-test="probability">
          <template v-if="review.longLate">it is now</template
          ><template v-else>{{
            review.probability === null ? 'not known' : probabilityText(review.probability)
          }}</template>
        </p>
        <p class="hint">
          {{
            review.model ? `learnt from the ledger up to ${dateText(review.model.asOf)}` : 'being learnt now'
          }}
        </p>
      </div>
      <div>
        <p class="label">Most open in the last year</p>
        <p class="font-serif text-[26px] leading-tight">
          <Figure :amount="review.most" :currency="review.base" whole zero />
        </p>
        <p class="hint">at any of its month ends, {{ review.base }}</p>
      </div>
    </div>
    <div class="mt-4 grid gap-y-6">
      <section aria-label="Suggestion" class="grid gap-x-10 min-[900px]:grid-cols-2">
        <h2 class="col-span-full mb-1">What is suggested</h2>
        <ul v-if="review.suggestion" class="mb-3" data-test="reasons">
          <li v-for="reason in review.suggestion.reasons" :key="reason">{{ proseText(reason) }}</li>
        </ul>
        <p v-else class="hint mb-3">Too little is known to suggest anything: decide by what you know.</p>
        <form class="setup-form" @submit.prevent="accept">
          <label class="label" for="riskClass">Risk class</label>
          <span
            ><select id="riskClass" v-model="form.riskClass" class="field" :disabled="!may">
              <option value="">as its class says</option>
              <option v-for="[code, words] in classes" :key="code" :value="code">
                {{ code }}, {{ words }}
              </option>
            </select>
            <span class="hint ml-2">now {{ review.riskClass || 'none' }}</span></span
          >
          <label class="label" for="limit">Credit limit, {{ review.currency }}</label>
          <span
            ><MoneyField
              id="limit"
              v-model="form.limit"
              class="w-[140px]"
              :currency="review.currency"
              label="Credit limit"
            />
            <span class="hint ml-2"
              >now
              <Figure
                v-if="review.limit !== null"
                :amount="review.limit"
                :currency="review.currency"
                whole
                zero
              /><template v-else>none</template></span
            ></span
          >
          <label class="label" for="reviewDate">Next review</label>
          <DateField id="reviewDate" v-model="form.reviewDate" label="Next review" :today="review.today" />
          <label class="label" for="reason">Reason</label>
          <input
            id="reason"
            v-model="form.reason"
            class="field"
            maxlength="200"
            placeholder="review"
            :disabled="!may"
          />
          <span /><span v-if="may"
            ><button class="go" type="submit">Accept <kbd>Y</kbd></button>
            <span class="hint ml-3">a limit that rises waits for a second person</span></span
          >
        </form>
      </section>
      <section aria-label="Score">
        <h2 class="mb-1">What the score is made of</h2>
        <table class="grid-table flush" data-test="parts">
          <thead>
            <tr>
              <th>Part</th>
              <th>As it is</th>
              <th class="num">Points</th>
              <th class="num">Weight</th>
              <th class="num">Gives</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in review.parts" :key="p.part">
              <td :title="SCORE_PARTS[p.part].scale">{{ SCORE_PARTS[p.part].label }}</td>
              <td class="w-full !whitespace-normal">{{ p.said }}</td>
              <td class="num">{{ p.points === null ? '·' : Math.round(p.points) }}</td>
              <td class="num">{{ p.weight }}</td>
              <td class="num">{{ p.points === null ? '·' : p.gives.toFixed(1) }}</td>
            </tr>
          </tbody>
          <tfoot>
            <tr>
              <td colspan="4">Score</td>
              <td class="num">{{ score === null ? '·' : score.toFixed(1) }}</td>
            </tr>
          </tfoot>
        </table>
      </section>
    </div>
  </div>
  <p v-else-if="!trouble" class="hint p-[18px]">Reading the ledger …</p>
</template>
