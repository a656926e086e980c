import { NameIndex } from './names'
import { plain, referenceKey } from './numbers'
import type { MatchCustomer } from './types'

/**
 * The customers as the matching looks for them: by id, bank account, group and name. Building it reads every
 * name, 50,000 in some tenths of a second; it is built once for a state of the customers and used for every
 * line.
 */
export class Directory {
  readonly byId: ReadonlyMap<number, MatchCustomer>
  readonly names: NameIndex
  private readonly byIban = new Map<string, number[]>()
  private readonly byNumber = new Map<string, number[]>()
  private readonly members = new Map<number, number[]>()

  constructor(readonly customers: readonly MatchCustomer[]) {
    this.byId = new Map(customers.map(c => [c.id, c]))
    this.names = new NameIndex(customers)
    for (const c of customers) {
      if (c.iban) push(this.byIban, plain(c.iban), c.id)
      push(this.byNumber, referenceKey(c.number), c.id)
      if (c.parentId) push(this.members, c.parentId, c.id)
    }
  }

  withIban(iban: string): readonly number[] {
    return this.byIban.get(plain(iban)) ?? []
  }

  /** By a customer number as payers write it (`referenceKey`). */
  withNumber(key: string): readonly number[] {
    return this.byNumber.get(key) ?? []
  }

  /** Those below a head of a group. */
  membersOf(headId: number): readonly number[] {
    return this.members.get(headId) ?? []
  }

  /** A customer with its whole group. */
  groupOf(id: number): number[] {
    const head = this.byId.get(id)?.parentId ?? id
    return [head, ...this.membersOf(head)]
  }
}

function push(map: Map<string | number, number[]>, key: string | number, id: number): void {
  const own = map.get(key)
  if (own) own.push(id)
  else map.set(key, [id])
}
