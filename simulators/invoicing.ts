import { addDays, isBankWorkingDay, onBankWorkingDay, type IsoDate } from '../core/calendar'
import { toMajor } from '../core/money'
import { joinCsv } from '../formats/csv'
import { readMemory, type BankMemory } from './bank'
import { chance } from './chance'
import type { Payer } from './payers'

/*
 * The house's own invoicing as the demo needs it: while the Clock goes on, goods go out and invoices with
 * them, to customers in the measure in which they were invoiced before. The payers know what was sent to
 * them.
 */

export interface Issued {
  day: IsoDate
  customer: string
  number: string
  currency: string
  amount: number
  due: IsoDate
}

const DUE_DAYS = 30
/** A customer buys about every third week. */
const BUYS = 1 / 15
/** So long what was issued is handed over again. */
const KEPT_DAYS = 10
/** Lateness of a customer in days, its own for good. */
const latenessOf = (memory: BankMemory, p: Payer): number =>
  chance(`${memory.seed} way ${p.number}`).pick([-4, 0, 2, 5, 9, 14, 26])

/** Adds what is invoiced up to a day; the memory changes. */
export function issue(memory: BankMemory, to: IsoDate): void {
  if (!memory.invoicedTo || memory.invoicedTo >= to) return
  const from = memory.invoicedTo
  memory.invoicedTo = to
  const issued = (memory.issued ?? []).filter(i => i.day > addDays(to, -KEPT_DAYS))
  for (let day = addDays(from, 1); day <= to; day = addDays(day, 1)) {
    if (!isBankWorkingDay(day)) continue
    for (const p of memory.payers) {
      const c = chance(`${memory.seed} buys ${p.number} ${day}`)
      const known = p.typical ?? middle(p.invoices.map(i => i.amount))
      p.typical = known
      if (!known || !c.happens(BUYS)) continue
      const year = day.slice(2, 4)
      const before = memory.lastInvoice?.startsWith(`${year}-`) ? Number(memory.lastInvoice.slice(3)) : 0
      memory.lastInvoice = `${year}-${String(before + 1).padStart(4, '0')}`
      const unit = p.currency === 'JPY' ? 100 : 1
      const amount = Math.max(unit * 50, Math.round((known * (0.5 + c.next())) / unit) * unit)
      const due = addDays(day, DUE_DAYS)
      const late = latenessOf(memory, p) + c.whole(-2, 3)
      p.invoices.push({
        number: memory.lastInvoice,
        open: amount,
        amount,
        date: day,
        due,
        payOn: onBankWorkingDay(addDays(due, late)),
        discounts: [],
      })
      issued.push({ day, customer: p.number, number: memory.lastInvoice, currency: p.currency, amount, due })
    }
  }
  memory.issued = issued
}

const middle = (amounts: readonly number[]): number =>
  [...amounts].sort((a, b) => a - b)[Math.floor(amounts.length / 2)] ?? 0

/** What was invoiced lately up to a day, in the columns of the import. */
export function invoicedTo(folder: string, day: IsoDate, after: IsoDate | null): string {
  const issued = (readMemory(folder).issued ?? []).filter(i => i.day <= day && i.day > (after ?? ''))
  if (!issued.length) return ''
  return joinCsv(
    ['number', 'kind', 'customer', 'date', 'due_date', 'currency', 'amount'],
    issued.map(i => [
      i.number,
      'invoice',
      i.customer,
      i.day,
      i.due,
      i.currency,
      toMajor(i.amount, i.currency),
    ]),
  )
}
