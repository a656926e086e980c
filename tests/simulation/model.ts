/**
 * A small set of books of its own, beside the real ones: what is open of each item, and where each piece of
 * money lies. It knows nothing of postings, accounts or base currency, only what each act means, and shares
 * no code with the ledger. Amounts are minor units.
 */
export interface ModelItem {
  id: number
  customer: string
  currency: string
  side: 'debit' | 'credit'
  amount: number
  open: number
  kind: 'document' | 'receipt' | 'fee' | 'refund' | 'reversal'
  date: string
  reversed: boolean
}

export interface ModelLink {
  id: number
  credit: number
  debit: number
  amount: number
  /** Discount and small difference that came with the payment: they go back with it. */
  extra: number
  live: boolean
}

export type Place = 'tray' | 'slip' | 'clearing' | 'bank' | 'gone'

/** One cheque, bundle of cash, or transfer. `owner`: a receipt, or the negative of a sundry receipt's id. */
export interface ModelMeans {
  id: number
  owner: number
  means: string
  currency: string
  amount: number
  place: Place
  slip: number | null
}

export interface ModelSlip {
  id: number
  number: string
  currency: string
  total: number
  kept: number
  state: 'open' | 'void' | 'met'
}

export interface ModelLine {
  id: number
  currency: string
  amount: number
  matched:
    | null
    | { kind: 'receipt'; receipts: number[] }
    | { kind: 'covered'; means: number[]; slips: number[] }
    | { kind: 'ledger' }
}

/** What is disputed of an item; it changes nothing of what is open before it ends. */
export interface ModelDispute {
  id: number
  item: number
  amount: number
  live: boolean
}

/** What was written off of an item, and what of it came back. */
export interface ModelLoss {
  id: number
  item: number
  amount: number
  recovered: number
  live: boolean
}

/** Money on an account that is what was written off. */
export interface ModelRecovery {
  id: number
  credit: number
  loss: number
  amount: number
  live: boolean
}

/** An invoice on a schedule. `closed`: so much of it left the books, to the factor. */
export interface ModelOffered {
  id: number
  schedule: string
  number: string
  item: number
  recourse: boolean
  amount: number
  collected: number
  closed: number
  state: 'sent' | 'accepted' | 'collected' | 'gone'
}

export class Model {
  readonly items = new Map<number, ModelItem>()
  readonly links = new Map<number, ModelLink>()
  readonly means = new Map<number, ModelMeans>()
  readonly slips = new Map<number, ModelSlip>()
  readonly lines = new Map<number, ModelLine>()
  readonly disputes = new Map<number, ModelDispute>()
  readonly losses = new Map<number, ModelLoss>()
  readonly recoveries = new Map<number, ModelRecovery>()
  readonly offered = new Map<number, ModelOffered>()
  /** Money that came back from where the bank has it, and that the bank has not taken yet. */
  readonly owed = new Map<string, number>()
  petty = 0

  /** Asked when all that happened at once is known: what may not have happened, whatever came first. */
  readonly later: (() => string | undefined)[] = []

  /** What lies with a factor: offered, or taken by it and not come back. */
  heldBy(itemId: number): ModelOffered | undefined {
    return [...this.offered.values()].find(
      o => o.item === itemId && (o.state === 'sent' || o.state === 'accepted'),
    )
  }

  /** What the model itself forbids, after all that happened at once. */
  wrongs(): string[] {
    const found = this.later.splice(0).flatMap(ask => ask() ?? [])
    const held = new Map<number, number>()
    for (const o of this.offered.values())
      if (o.state === 'sent' || o.state === 'accepted') held.set(o.item, (held.get(o.item) ?? 0) + 1)
    for (const [item, times] of held) if (times > 1) found.push(`item ${item} lies with ${times} factors`)
    return found
  }

  take(id: number, amount: number): void {
    const item = this.items.get(id)
    if (!item) throw new Error(`the model knows no item ${id}`)
    item.open -= amount
    if (item.open < 0 || item.open > item.amount)
      throw new Error(`item ${id} has ${item.open} of ${item.amount} open in the model`)
  }

  link(id: number, credit: number, debit: number, amount: number, extra: number): void {
    this.links.set(id, { id, credit, debit, amount, extra, live: true })
    this.take(credit, amount)
    this.take(debit, amount + extra)
  }

  unlink(id: number): void {
    const link = this.links.get(id)
    if (!link?.live) throw new Error(`the model knows no live link ${id}`)
    link.live = false
    this.take(link.credit, -link.amount)
    this.take(link.debit, -(link.amount + link.extra))
  }

  linksOf(itemId: number): ModelLink[] {
    return [...this.links.values()].filter(l => l.live && (l.credit === itemId || l.debit === itemId))
  }

  meansOf(owner: number): ModelMeans[] {
    return [...this.means.values()].filter(m => m.owner === owner)
  }

  /**
   * A receipt leaves the account; its money leaves the place where it is, or is owed when the bank has it.
   */
  reverse(itemId: number): void {
    for (const l of this.linksOf(itemId)) this.unlink(l.id)
    const item = this.items.get(itemId)!
    if (item.open !== item.amount)
      throw new Error(`item ${itemId} was reversed while ${item.amount - item.open} of it was held elsewhere`)
    this.take(itemId, item.open)
    item.reversed = true
    for (const m of this.meansOf(itemId)) {
      if (m.place === 'slip' || m.place === 'bank') this.owe(m.currency, m.amount)
      m.place = 'gone'
    }
  }

  owe(currency: string, amount: number): void {
    this.owed.set(currency, (this.owed.get(currency) ?? 0) + amount)
  }

  /** What lies in a place, by currency. Clearing holds what is on its way, less what is owed back. */
  lies(place: 'tray' | 'clearing' | 'bank', currency: string): number {
    const own = [...this.means.values()].filter(m => m.currency === currency)
    const sum = (list: readonly { amount: number }[]) => list.reduce((a, m) => a + m.amount, 0)
    if (place === 'tray') return sum(own.filter(m => m.place === 'tray'))
    if (place === 'bank') {
      const settled = [...this.lines.values()].filter(l => l.matched && l.currency === currency)
      return sum(settled)
    }
    const slips = [...this.slips.values()].filter(s => s.state === 'open' && s.currency === currency)
    const handedOver = slips.reduce((a, s) => a + s.total - s.kept, 0)
    return sum(own.filter(m => m.place === 'clearing')) + handedOver - (this.owed.get(currency) ?? 0)
  }
}
