import { contract } from '~~/contract'
import type { AccountItem } from '~~/contract/accounts'
import { split } from '~~/core/money'
import { call } from '~/utils/api'

/** All open items of an account as of a day, by due date. `paidOn`: the day whose discounts are offered. */
export async function readOpenItems(number: string, asOf: string, paidOn?: string): Promise<AccountItem[]> {
  const all: AccountItem[] = []
  let cursor: string | undefined
  do {
    const page = await call(contract.accounts.items, {
      params: { number },
      query: { state: 'open', asOf, paidOn, sort: 'due', limit: 500, cursor },
    })
    all.push(...page.items)
    cursor = page.next ?? undefined
  } while (cursor)
  return all
}

/** Money for items in another currency: all of it, shared out by what each item is paid. Minor units. */
export function shareOut<T extends { amount: number }>(
  money: number,
  allocations: readonly T[],
): (T & { paid: number })[] {
  if (!money || !allocations.length) return []
  const paid = split(
    money,
    allocations.map(a => a.amount),
  )
  return allocations.map((a, i) => ({ ...a, paid: paid[i]! }))
}
