import { computed, reactive, ref, watch, type Ref } from 'vue'
import { addBankWorkingDays, addDays } from '~~/core/calendar'
import { DISPUTE_REASONS, type DisputeReason } from '~~/core/disputes'
import type { Outcome } from '~~/core/callList'
import { instalments } from '~~/core/promises'
import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'

export const REASON_CODES = Object.keys(DISPUTE_REASONS) as DisputeReason[]

/** So many working days from today a promise is for, until somebody says otherwise. */
const PROMISED_IN = 5

/**
 * A call that is being written down: the open items of the customer, what became of it, and with a promise or
 * a dispute what that is about. Items that are chosen make the amount; the amount may be typed over.
 */
export function useCall(customer: Ref<string | null>) {
  const session = useSession()
  const desk = useDesk()
  const items = ref<AccountItem[]>([])
  const chosen = reactive(new Set<number>())
  const trouble = ref('')
  const saving = ref(false)
  const blank = () => ({
    outcome: '' as Outcome | '',
    spokeWith: '',
    text: '',
    nextDate: '',
    promiseDate: addBankWorkingDays(session.today, PROMISED_IN),
    amount: null as number | null,
    instalments: 1,
    every: 14,
    reason: 'quality' as DisputeReason,
  })
  const form = reactive(blank())

  let asked = 0
  watch(
    customer,
    async number => {
      const mine = ++asked
      Object.assign(form, blank())
      items.value = []
      chosen.clear()
      trouble.value = ''
      if (number === null) return
      try {
        const answer = await call(contract.accounts.items, {
          params: { number },
          query: { state: 'open', sort: 'due', limit: 300 },
        })
        if (mine === asked) items.value = answer.items.filter(i => i.side === 'debit' && i.open > 0)
      } catch (error) {
        if (mine === asked) trouble.value = problemText(error)
      }
    },
    { immediate: true },
  )
  const overdue = computed(() => items.value.filter(i => i.dueDate < session.today))
  const picked = computed(() => items.value.filter(i => chosen.has(i.id)))
  const currency = computed(() => picked.value[0]?.currency ?? items.value[0]?.currency ?? session.base)
  const total = computed(() =>
    picked.value.filter(i => i.currency === currency.value).reduce((sum, i) => sum + i.open, 0),
  )
  /** Of a dispute what is not disputed already. */
  const amountOf = (i: AccountItem): number =>
    form.outcome === 'disputed' ? i.open - (i.dispute?.amount ?? 0) : i.open
  watch([total, () => form.outcome], () => {
    form.amount = picked.value.reduce((sum, i) => sum + amountOf(i), 0) || null
  })
  watch(
    () => form.outcome,
    outcome => {
      if (outcome !== 'promised' || chosen.size) return
      const first = overdue.value[0]?.currency
      for (const item of overdue.value)
        if (item.currency === first && !item.promise && !item.dispute) chosen.add(item.id)
    },
  )
  const toggle = (item: AccountItem): void => {
    if (!chosen.delete(item.id)) chosen.add(item.id)
  }

  /** Equal instalments; one when it is for one day. */
  const parts = computed(() => {
    const amount = form.amount ?? 0
    const count = Math.max(1, Math.min(60, Math.round(form.instalments) || 1))
    const dates = (n: number) =>
      n === 0 ? form.promiseDate : addBankWorkingDays(addDays(form.promiseDate, form.every * n), 0)
    return instalments(amount, count, dates)
  })
  const reason = computed(() => {
    if (!form.outcome) return 'say what became of the call'
    if (form.outcome === 'promised' && !form.amount) return 'say how much was promised, or choose items'
    if (form.outcome === 'disputed' && !picked.value.length) return 'choose what is disputed'
    if (form.outcome === 'copies' && !picked.value.length) return 'choose what they want a copy of'
    return ''
  })
  const promise = () => {
    const items = picked.value.map(i => ({ itemId: i.id, amount: i.open }))
    // Typed over to less than the items: it is for the account, oldest first.
    const forItems = items.length > 0 && form.amount === total.value
    return {
      currency: currency.value,
      items: forItems ? items : null,
      parts: parts.value,
      text: form.text,
    }
  }
  const dispute = () => ({
    reason: form.reason,
    text: form.text,
    items: picked.value.map(i => ({
      itemId: i.id,
      // Of one item a part can be disputed; of several each whole, less what is disputed already.
      amount: picked.value.length === 1 ? (form.amount ?? amountOf(i)) : amountOf(i),
    })),
  })
  /** What was asked for is in their mailbox before the call ends; the call itself is written down already. */
  async function sendCopies(): Promise<void> {
    for (const { id, number } of picked.value)
      try {
        await call(contract.letters.sendCopy, { params: { id }, body: {} })
      } catch (error) {
        desk.say({ text: `The copy of ${number} was not sent: ${problemText(error)}`, bad: true })
      }
  }
  /** Writes it down; answers whether it was. */
  async function save(): Promise<boolean> {
    if (reason.value || saving.value || customer.value === null) return false
    saving.value = true
    try {
      await call(contract.callList.log, {
        key: crypto.randomUUID(),
        body: {
          customer: customer.value,
          outcome: form.outcome as Outcome,
          spokeWith: form.spokeWith,
          text: form.text,
          nextDate: form.nextDate || null,
          promise: form.outcome === 'promised' ? promise() : null,
          dispute: form.outcome === 'disputed' ? dispute() : null,
        },
      })
      if (form.outcome === 'copies') await sendCopies()
      trouble.value = ''
      return true
    } catch (error) {
      trouble.value = problemText(error)
      return false
    } finally {
      saving.value = false
    }
  }
  return {
    form,
    items,
    chosen,
    total,
    currency,
    parts,
    toggle,
    reason,
    trouble,
    saving,
    save,
  }
}
