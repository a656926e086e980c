<script setup lang="ts">
import { computed, reactive, ref, shallowRef } from 'vue'
import { contract } from '~~/contract'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { useLinePayment } from '~/composables/banking/linePayment'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { holdKeys } from '~/composables/typeAhead'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, settledText } from '~/utils/format'
import { newest } from '~/utils/fill'

/**
 * One bank line by hand: whose money it is and what it pays, what it settles, or where it goes in the ledger.
 */
const desk = useDesk()
const session = useSession()
const route = useRoute()
const id = Number(route.params.id)
const line = shallowRef<BankLineDetail | null>(null)
const ways = {
  customer: 'A customer paid',
  covered: 'Posted before',
  ledger: 'Not a customer',
  return: 'Sent back',
} as const
type Way = keyof typeof ways
/** What the line looks like when it has come; what somebody chose before that stays. */
const suggested = ref<Way>('customer')
const picked = ref<Way | null>(null)
const way = computed<Way>({
  get: () => picked.value ?? suggested.value,
  set: chosenWay => {
    picked.value = chosenWay
  },
})
const number = ref(String(route.query.customer ?? ''))
const currency = computed(() => line.value?.currency ?? session.base)
const asking = ref(false)
const trouble = ref('')
const busy = ref(false)
const payment = useLinePayment(line, number, error => {
  trouble.value = problemText(error)
})
const {
  itemCurrency,
  itemCurrencies,
  chosen,
  extras,
  debits,
  toggle,
  takeDiscount,
  writeOff,
  setAmount,
  oldestFirst,
  credits,
  ownCredits,
  flipCredit,
  onAccount,
  rest,
  why,
} = payment
/** What the other ways would do with the line, and why they cannot yet. */
const actions = reactive<Record<Exclude<Way, 'customer'>, LineAction | null>>({
  covered: null,
  ledger: null,
  return: null,
})
const reasons = reactive({ covered: '', ledger: '', return: '' })

const loads = newest()
async function load(): Promise<void> {
  const isNewest = loads()
  try {
    const one = await call(contract.banking.line, {
      params: { id },
      query: { customer: number.value || undefined },
    })
    if (!isNewest()) return
    line.value = one
    if (one.state !== 'open') {
      await navigateTo(`/banking?state=settled&find=${encodeURIComponent(one.bankReference)}`)
      return
    }
    if (one.amount < 0)
      suggested.value = one.returnReason || /unpaid|return/i.test(one.text) ? 'return' : 'ledger'
    if (!number.value && !asking.value && one.amount > 0 && one.proposal?.customer)
      number.value = one.proposal.customer.number
  } catch (error) {
    trouble.value = problemText(error)
  }
}
void load().finally(holdKeys())
const action = computed<LineAction | null>(() =>
  way.value === 'customer' ? payment.action.value : actions[way.value],
)
const reason = computed(() => {
  if (trouble.value) return trouble.value
  if (!line.value) return 'reading'
  return (way.value === 'customer' ? payment.reason.value : reasons[way.value]) || proofTrouble.value
})
const {
  proof,
  trouble: proofTrouble,
  pending,
  ready,
} = useProof(
  () =>
    line.value && action.value
      ? call(contract.banking.preview, {
          params: { id },
          body: { version: line.value.version, action: action.value },
        })
      : null,
  [action, line],
)

async function post(): Promise<void> {
  if (reason.value || busy.value || !ready.value || !action.value) return
  busy.value = true
  try {
    const done = await call(contract.banking.accept, {
      params: { id },
      body: { version: line.value!.version, action: action.value },
      key: `line-${id}-${line.value!.version}`,
    })
    await desk.refresh()
    await navigateTo('/banking')
    desk.say({
      text: settledText(done),
      to: `/banking?state=settled&find=${encodeURIComponent(done.bankReference)}`,
      action: 'Unmatch',
    })
  } catch (error) {
    trouble.value = problemText(error)
    await load()
    trouble.value = problemText(error)
  } finally {
    busy.value = false
  }
}
const accounts = computed(() =>
  (session.settings?.chart ?? []).filter(
    a => !['receivables', 'advances', 'on-hand', 'clearing', 'bank'].includes(a.purpose ?? ''),
  ),
)
useKeys([
  {
    key: 'Ctrl+Enter',
    label: 'Post',
    inFields: true,
    run: () => {
      void post()
    },
  },
  {
    key: 'g',
    label: 'A customer paid',
    run: () => {
      way.value = 'customer'
    },
  },
  {
    key: 'v',
    label: 'Posted before',
    run: () => {
      way.value = 'covered'
    },
  },
  {
    key: 'l',
    label: 'Not a customer',
    run: () => {
      way.value = 'ledger'
    },
  },
  {
    key: 'r',
    label: 'Sent back',
    run: () => {
      way.value = 'return'
    },
  },
  {
    key: 'c',
    label: 'Choose the customer',
    when: () => way.value === 'customer',
    run: () => {
      number.value = ''
      asking.value = true
    },
  },
  { key: 'o', label: 'Oldest first', when: () => way.value === 'customer', run: oldestFirst },
  {
    key: 'a',
    label: 'Leave the rest on account',
    when: () => way.value === 'customer',
    run: () => {
      onAccount.value = !onAccount.value
    },
  },
  {
    key: 'x',
    label: 'Take all ticks off',
    when: () => way.value === 'customer',
    run: () => {
      payment.clearAll()
    },
  },
  {
    key: 'Escape',
    label: 'Back to the lines',
    run: () => {
      void navigateTo('/banking')
    },
  },
])
</script>

<template>
  <div class="sheet-head">
    <h1>{{ line ? amountText(line.amount, line.currency, true) : 'Bank line' }}</h1>
    <span v-if="line" class="text-soft">{{ dateText(line.bookingDate) }}, {{ line.bankAccount.name }}</span
    ><NuxtLink class="hint makes ml-auto" to="/banking">all lines <kbd>Esc</kbd></NuxtLink>
  </div>
  <div v-if="line" class="px-[18px] pb-2">
    <p>
      <b class="font-semibold">{{ line.name || 'No name' }}</b> <span class="text-soft">{{ line.iban }}</span>
    </p>
    <p class="break-words">{{ line.text || line.reference || 'no text' }}</p>
  </div>
  <div class="filters" role="radiogroup" aria-label="What the line is">
    <button
      v-for="(label, w) in ways"
      :key="w"
      role="radio"
      :aria-checked="w === way"
      class="border-b-2 pb-0.5"
      :class="w === way ? 'border-accent font-semibold' : 'border-transparent text-soft'"
      @click="way = w"
    >
      {{ label }} <kbd>{{ { customer: 'G', covered: 'V', ledger: 'L', return: 'R' }[w] }}</kbd>
    </button>
  </div>
  <p v-if="trouble" class="wrong px-[18px] pb-1" role="alert">{{ trouble }}</p>
  <template v-if="way === 'customer'">
    <div v-if="!number" class="min-h-[260px] px-[18px] py-3">
      <CustomerPicker
        :key="String(asking)"
        :quiet="!asking"
        @pick="
          n => {
            number = n
            asking = false
          }
        "
      />
      <p class="hint mt-3">Whose money is it? <kbd>C</kbd> to type a name.</p>
    </div>
    <template v-else>
      <p class="px-[18px] pb-1">
        <span class="name">{{ desk.card?.number === number ? desk.card.name : number }}</span>
        <button
          class="plain !py-0 ml-2"
          @click="
            () => {
              number = ''
              asking = true
            }
          "
        >
          another <kbd>C</kbd></button
        ><span v-if="itemCurrencies.length > 1" class="ml-4"
          ><label class="label" for="items-in">for items in </label
          ><select id="items-in" v-model="itemCurrency" class="field">
            <option v-for="c in itemCurrencies" :key="c" :value="c">{{ c }}</option>
          </select></span
        ><span v-if="why" class="ml-3 text-soft">{{ why }}</span>
      </p>
      <AllocationTable
        :items="debits"
        :chosen="chosen"
        :extras="extras"
        :currency="itemCurrency"
        :date="line?.valueDate ?? session.today"
        :tolerance="session.settings?.receiptPolicy.tolerance ?? 0"
        :authority="session.can('discount.authorise')"
        @toggle="toggle"
        @amount="setAmount"
        @discount="takeDiscount"
        @difference="writeOff"
      />
      <p v-if="ownCredits.length" class="flex flex-wrap gap-x-5 border-t border-rule px-[18px] py-1.5">
        <span class="text-soft">Credits of the account:</span
        ><label v-for="i in ownCredits" :key="i.id" class="flex items-center gap-1.5"
          ><input type="checkbox" class="tick" :checked="credits.has(i.id)" @change="flipCredit(i)" />{{
            i.number
          }}
          <Figure :amount="-i.open" :currency="currency"
        /></label>
      </p>
      <p class="flex flex-wrap items-center gap-x-5 border-t border-rule px-[18px] py-1.5" aria-live="polite">
        <b class="font-semibold" data-test="rest"
          ><template v-if="rest === 0">All assigned.</template
          ><template v-else-if="rest < 0">{{ amountText(-rest, currency) }} more than came in.</template
          ><template v-else
            >{{ amountText(rest, currency) }}
            {{ onAccount ? 'stays on account' : 'not yet assigned' }}.</template
          ></b
        ><button class="plain !py-0" @click="oldestFirst">Oldest first <kbd>O</kbd></button
        ><label class="flex items-center gap-1.5"
          ><input v-model="onAccount" type="checkbox" class="tick" /> Leave the rest on account
          <kbd>A</kbd></label
        >
      </p>
    </template>
  </template>
  <!-- What was said under one way stays while another is looked at. -->
  <KeepAlive>
    <CoveredWay
      v-if="way === 'covered'"
      v-model:action="actions.covered"
      v-model:reason="reasons.covered"
      :line="line"
      :currency="currency"
      :accounts="accounts"
    />
    <LedgerWay
      v-else-if="way === 'ledger'"
      v-model:action="actions.ledger"
      v-model:reason="reasons.ledger"
      :line="line"
      :accounts="accounts"
    />
    <ReturnWay
      v-else-if="way === 'return'"
      v-model:action="actions.return"
      v-model:reason="reasons.return"
      :line="line"
      :currency="currency"
    />
  </KeepAlive>
  <ProofStrip
    :proof="proof"
    :reason="reason"
    :busy="busy || pending"
    verb="Post"
    after="then the other lines"
    :labels="session.settings?.buckets.map(b => b.label) ?? []"
    @post="post"
  />
</template>
