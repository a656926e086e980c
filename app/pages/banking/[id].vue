<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { split } from '~~/core/money'
import { useAllocation } from '~/composables/receipts/allocation'
import { useKeys } from '~/composables/keys'
import { useProof } from '~/composables/proof'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { amountText, dateText, plural } from '~/utils/format'

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
const way = ref<keyof typeof ways>('customer')
const number = ref(String(route.query.customer ?? ''))
const items = ref<AccountItem[]>([])
const currency = computed(() => line.value?.currency ?? session.base)
/** Items may be in another currency than the money. */
const pickedItems = ref('')
const itemCurrency = computed({
  get: () => pickedItems.value || currency.value,
  set: (c: string) => {
    pickedItems.value = c
  },
})
const foreign = computed(() => itemCurrency.value !== currency.value)
const itemCurrencies = computed(() => [
  ...new Set([currency.value, ...items.value.filter(i => i.open > 0).map(i => i.currency)]),
])
const {
  chosen,
  extras,
  debits,
  assigned,
  allocations,
  late,
  left,
  toggle,
  takeDiscount,
  writeOff,
  setAmount,
  oldestFirst,
  clear,
} = useAllocation(
  items,
  itemCurrency,
  () => (foreign.value ? 0 : (line.value?.amount ?? 0)),
  () => !foreign.value,
)
const credits = ref<Set<number>>(new Set())
const onAccount = ref(false)
const asking = ref(false)
const why = ref('')
const trouble = ref('')
const busy = ref(false)
type Covered = Awaited<ReturnType<typeof readCovered>>['items'][number]
const readCovered = (currency: string) => call(contract.banking.covered, { query: { currency } })
const covered = ref<Covered[]>([])
const targets = ref<Set<string>>(new Set())
const restAccount = ref('')
const account = ref('')
const words = ref('')
const rememberPayer = ref(false)
const returned = ref<number | null>(null)
const fee = ref<number | null>(null)
const receipts = ref<
  {
    id: number
    number: string
    date: string
    customer: { number: string; name: string }
    amount: number
    reversed: boolean
  }[]
>([])

async function load(): Promise<void> {
  try {
    const one = await call(contract.banking.line, {
      params: { id },
      query: { customer: number.value || undefined },
    })
    line.value = one
    if (one.state !== 'open') {
      await navigateTo(`/banking?state=settled&find=${encodeURIComponent(one.bankReference)}`)
      return
    }
    if (one.amount < 0 && way.value === 'customer')
      way.value = one.returnReason || /unpaid|return/i.test(one.text) ? 'return' : 'ledger'
    if (!number.value && one.amount > 0 && one.proposal?.customer) number.value = one.proposal.customer.number
    covered.value = (await readCovered(one.currency)).items
    const found = await call(contract.receipts.list, {
      query: { search: String(Math.abs(one.amount)), limit: 50 },
    })
    receipts.value = found.items.filter(r => r.amount === -one.amount && !r.reversed)
  } catch (error) {
    trouble.value = problemText(error)
  }
}
void load()
watch(number, async n => {
  items.value = []
  clear()
  credits.value = new Set()
  why.value = ''
  if (!n || !line.value) return
  try {
    await desk.choose(n)
    const all: AccountItem[] = []
    let cursor: string | undefined
    do {
      const page = await call(contract.accounts.items, {
        params: { number: n },
        query: { state: 'open', asOf: session.today, sort: 'due', limit: 500, cursor },
      })
      all.push(...page.items)
      cursor = page.next ?? undefined
    } while (cursor)
    items.value = all
    // What we would propose for this customer is ticked; everything can be changed.
    const one = await call(contract.banking.line, { params: { id }, query: { customer: n } })
    line.value = one
    const action = one.proposal?.action
    if (action?.kind === 'receipt' && action.parts.length === 1 && action.parts[0]!.customer === n) {
      const [part] = action.parts
      for (const a of part!.allocations) {
        chosen[a.itemId] = a.amount
        if (a.discount || a.difference)
          extras[a.itemId] = { discount: a.discount, difference: a.difference, late: false }
      }
      credits.value = new Set(part!.credits.map(c => c.creditItemId))
      onAccount.value = part!.onAccount > 0
      why.value = one.proposal!.reasons.join('; ')
    }
  } catch (error) {
    trouble.value = problemText(error)
  }
})
const ownCredits = computed(() => items.value.filter(i => i.open < 0 && i.currency === currency.value))
const creditSum = computed(() =>
  ownCredits.value.filter(c => credits.value.has(c.id)).reduce((a, c) => a - c.open, 0),
)
/** All of the line goes to items in another currency, shared out by what each is paid. */
const paidFor = computed(() => {
  if (!foreign.value || !allocations.value.length || !line.value) return allocations.value
  const paid = split(
    line.value.amount,
    allocations.value.map(a => a.amount),
  )
  return allocations.value.map((a, i) => ({ ...a, paid: paid[i]! }))
})
const rest = computed(
  () =>
    (line.value?.amount ?? 0) -
    (foreign.value ? (assigned.value ? (line.value?.amount ?? 0) : 0) : assigned.value),
)
/** Credits go against what the chosen items still have open, largest first. */
const creditPairs = computed(() => {
  const room = new Map(
    debits.value.filter(i => chosen[i.id] && !extras[i.id]?.discount).map(i => [i.id, left(i)]),
  )
  return ownCredits.value
    .filter(c => credits.value.has(c.id))
    .flatMap(c => {
      let open = -c.open
      return [...room]
        .sort((a, b) => b[1] - a[1])
        .flatMap(([debitItemId, r]) => {
          const amount = Math.min(open, r)
          if (amount <= 0) return []
          open -= amount
          room.set(debitItemId, r - amount)
          return [{ creditItemId: c.id, debitItemId, amount }]
        })
    })
})
const targetSum = computed(() =>
  covered.value.filter(c => targets.value.has(`${c.kind} ${c.id}`)).reduce((a, c) => a + c.amount, 0),
)
const flip = (c: Covered) => {
  const key = `${c.kind} ${c.id}`
  const next = new Set(targets.value)
  if (!next.delete(key)) next.add(key)
  targets.value = next
}
const flipCredit = (i: AccountItem) => {
  const next = new Set(credits.value)
  if (!next.delete(i.id)) next.add(i.id)
  credits.value = next
}
const action = computed<LineAction | null>(() => {
  if (way.value === 'customer')
    return number.value
      ? {
          kind: 'receipt',
          lateDiscount: late.value,
          parts: [
            {
              customer: number.value,
              allocations: paidFor.value,
              credits: creditPairs.value,
              onAccount: onAccount.value ? Math.max(0, rest.value) : 0,
            },
          ],
        }
      : null
  if (way.value === 'covered')
    return targets.value.size
      ? {
          kind: 'covered',
          targets: covered.value
            .filter(c => targets.value.has(`${c.kind} ${c.id}`))
            .map(c => ({ kind: c.kind, id: c.id })),
          restAccount: restAccount.value || null,
        }
      : null
  if (way.value === 'ledger')
    return account.value
      ? {
          kind: 'ledger',
          account: account.value,
          words: words.value.trim(),
          rememberPayer: rememberPayer.value,
        }
      : null
  return returned.value
    ? {
        kind: 'return',
        itemId: returned.value,
        reason: line.value?.returnReason
          ? `Returned by the bank, reason ${line.value.returnReason}`
          : 'Returned unpaid by the bank',
        fee: fee.value ?? 0,
      }
    : null
})
const reason = computed(() => {
  if (!line.value) return trouble.value || 'reading'
  if (trouble.value) return trouble.value
  if (way.value === 'customer') {
    if (!number.value) return 'choose who paid'
    if (rest.value < 0) return `${amountText(-rest.value, currency.value)} more than came in`
    if (rest.value > 0 && !onAccount.value)
      return `${amountText(rest.value, currency.value)} not yet assigned`
    if (creditSum.value && creditPairs.value.reduce((a, p) => a + p.amount, 0) < creditSum.value)
      return 'the chosen items do not hold the credit: lower what they are paid'
  }
  if (way.value === 'covered')
    return !targets.value.size
      ? 'tick what the bank shows now'
      : targetSum.value !== line.value.amount && !restAccount.value
        ? `${amountText(line.value.amount - targetSum.value, currency.value)} apart: say where it goes`
        : proofTrouble.value
  if (way.value === 'ledger' && !account.value) return 'choose a ledger account'
  if (way.value === 'return' && !returned.value) return 'choose what came back'
  return proofTrouble.value
})
const {
  proof,
  trouble: proofTrouble,
  pending,
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
  if (reason.value || busy.value || pending.value || !proof.value?.ok || !action.value) return
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
      text: `${amountText(done.amount, done.currency, true)} settled${done.match?.receipts[0] ? `, ${done.match.receipts.map(r => r.number).join(', ')}` : ''}.`,
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
      clear()
      credits.value = new Set()
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
  <div v-else-if="way === 'covered'" class="min-h-0 flex-1 overflow-auto">
    <table class="grid-table">
      <thead>
        <tr>
          <th>Awaited from the bank</th>
          <th>Date</th>
          <th>Customer</th>
          <th class="num">Amount</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in covered" :key="`${c.kind} ${c.id}`">
          <td>
            <label class="flex items-center gap-2.5"
              ><input
                type="checkbox"
                class="tick"
                :checked="targets.has(`${c.kind} ${c.id}`)"
                @change="flip(c)"
              /><span class="font-semibold">{{ c.label }}</span
              ><span class="aside">{{ c.kind === 'means' ? 'receipt' : c.kind }}</span></label
            >
          </td>
          <td>{{ dateText(c.date) }}</td>
          <td>
            <span class="name">{{ c.customer?.name }}</span>
          </td>
          <td class="num"><Figure :amount="c.amount" :currency="c.currency" /></td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td colspan="3">
            {{ targets.size }} of {{ plural(covered.length, 'payment')
            }}<span class="ml-4 font-normal text-soft"
              >the line {{ amountText(line?.amount ?? 0, currency) }}, apart
              {{ amountText((line?.amount ?? 0) - targetSum, currency) }}</span
            >
          </td>
          <td class="num"><Figure :amount="targetSum" :currency="currency" zero /></td>
        </tr>
      </tfoot>
    </table>
    <p v-if="!covered.length" class="hint p-[18px]">
      Nothing in {{ currency }} is posted and awaited from the bank.
    </p>
    <p v-if="targets.size && targetSum !== line?.amount" class="px-[18px] py-2">
      <label class="label" for="rest">The difference goes to </label
      ><select id="rest" v-model="restAccount" class="field">
        <option value="">choose</option>
        <option v-for="a in accounts" :key="a.number" :value="a.number">{{ a.number }} {{ a.name }}</option>
      </select>
    </p>
  </div>
  <div v-else-if="way === 'ledger'" class="flex flex-1 flex-col gap-3 px-[18px] py-3">
    <p>
      <label class="label" for="to">To the ledger account </label
      ><select id="to" v-model="account" v-focus class="field">
        <option value="">choose</option>
        <option v-for="a in accounts" :key="a.number" :value="a.number">{{ a.number }} {{ a.name }}</option>
      </select>
    </p>
    <p>
      <label class="label" for="words">From now on, lines with the words </label
      ><input id="words" v-model="words" class="field w-[240px]" maxlength="120" placeholder="none" />
      {{ ' ' }}
      <span class="label">go there too</span>
    </p>
    <label v-if="line?.iban" class="flex items-center gap-1.5"
      ><input v-model="rememberPayer" type="checkbox" class="tick" /> and all
      {{ line.amount > 0 ? 'money from' : 'payments to' }} {{ line.iban }}</label
    >
  </div>
  <div v-else class="flex flex-1 flex-col gap-3 px-[18px] py-3">
    <table v-if="receipts.length" class="max-w-[640px]">
      <tbody>
        <tr v-for="r in receipts" :key="r.id">
          <td class="h-8">
            <label class="flex items-center gap-2.5"
              ><input v-model="returned" type="radio" :value="r.id" /><span class="font-semibold">{{
                r.number
              }}</span></label
            >
          </td>
          <td>{{ dateText(r.date) }}</td>
          <td>
            <span class="name">{{ r.customer.name }}</span>
          </td>
          <td class="num"><Figure :amount="r.amount" :currency="currency" /></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="hint">
      No receipt of {{ amountText(Math.abs(line?.amount ?? 0), currency) }} is there that the bank could send
      back.
    </p>
    <p>
      <label class="label" for="fee">Bank fee charged on to the customer </label
      ><MoneyField
        id="fee"
        v-model="fee"
        :currency="currency"
        label="Bank fee charged on"
        placeholder="none"
      />
    </p>
  </div>
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
