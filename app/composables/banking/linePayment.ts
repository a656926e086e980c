import { computed, ref, watch, type Ref } from 'vue'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import type { BankLineDetail, LineAction } from '~~/contract/banking/lines'
import { spreadCredits } from '~~/core/receipts'
import { useAllocation } from '~/composables/receipts/allocation'
import { readOpenItems, shareOut } from '~/composables/receipts/openItems'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call } from '~/utils/api'
import { amountText } from '~/utils/format'
import { fill } from '~/utils/fill'

/**
 * A bank line as the payment of one customer: the items it pays, the credits that go against them, and what
 * stays on account. `complain` is told when the items cannot be read.
 */
export function useLinePayment(
  line: Readonly<Ref<BankLineDetail | null>>,
  number: Readonly<Ref<string>>,
  complain: (error: unknown) => void,
) {
  const desk = useDesk()
  const session = useSession()
  const currency = computed(() => line.value?.currency ?? session.base)
  const items = ref<AccountItem[]>([])
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
  const allocation = useAllocation(
    items,
    itemCurrency,
    () => (foreign.value ? 0 : (line.value?.amount ?? 0)),
    () => !foreign.value,
  )
  const { chosen, extras, debits, assigned, allocations, late, left, clear } = allocation
  const credits = ref<Set<number>>(new Set())
  const onAccount = ref(false)
  const why = ref('')
  watch(number, async n => {
    items.value = []
    clear()
    credits.value = new Set()
    why.value = ''
    if (!n || !line.value) return
    try {
      await desk.choose(n)
      await fill(items, () => readOpenItems(n, session.today))
      // What we would propose for this customer is ticked; everything can be changed.
      const one = await call(contract.banking.line, { params: { id: line.value.id }, query: { customer: n } })
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
      complain(error)
    }
  })
  const ownCredits = computed(() => items.value.filter(i => i.open < 0 && i.currency === currency.value))
  const creditSum = computed(() =>
    ownCredits.value.filter(c => credits.value.has(c.id)).reduce((a, c) => a - c.open, 0),
  )
  /** All of the line goes to items in another currency, shared out by what each is paid. */
  const paidFor = computed(() =>
    foreign.value ? shareOut(line.value?.amount ?? 0, allocations.value) : allocations.value,
  )
  const rest = computed(
    () =>
      (line.value?.amount ?? 0) -
      (foreign.value ? (assigned.value ? (line.value?.amount ?? 0) : 0) : assigned.value),
  )
  /** Credits go against what the chosen items still have open. */
  const creditPairs = computed(() =>
    spreadCredits(
      ownCredits.value.filter(c => credits.value.has(c.id)).map(c => ({ id: c.id, amount: -c.open })),
      debits.value
        .filter(i => chosen[i.id] && !extras[i.id]?.discount && !extras[i.id]?.difference)
        .map(i => ({ id: i.id, amount: left(i) })),
    ),
  )
  const flipCredit = (i: AccountItem) => {
    const next = new Set(credits.value)
    if (!next.delete(i.id)) next.add(i.id)
    credits.value = next
  }
  const action = computed<LineAction | null>(() =>
    number.value
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
      : null,
  )
  const reason = computed(() => {
    if (!number.value) return 'choose who paid'
    if (rest.value < 0) return `${amountText(-rest.value, currency.value)} more than came in`
    if (rest.value > 0 && !onAccount.value)
      return `${amountText(rest.value, currency.value)} not yet assigned`
    if (creditSum.value && creditPairs.value.reduce((a, p) => a + p.amount, 0) < creditSum.value)
      return 'the chosen items do not hold the credit: lower what they are paid'
    return ''
  })
  const clearAll = (): void => {
    clear()
    credits.value = new Set()
  }
  return {
    ...allocation,
    itemCurrency,
    itemCurrencies,
    credits,
    ownCredits,
    flipCredit,
    onAccount,
    rest,
    why,
    action,
    reason,
    clearAll,
  }
}
