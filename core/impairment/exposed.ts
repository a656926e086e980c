import { bucketsOf } from '../aging'
import { placeAt, placesOf } from '../aging/position'
import type { Customers, LedgerImage, Open } from '../image'
import { kindOf } from '../image'
import { KINDS } from '../ledger'
import { share, split } from '../money'
import type { NamedCase, OpenInBand } from './allowance'

/*
 * What an allowance looks at, from the ledger in memory: claims that are open on a day, by customer, currency
 * and age band, and the same of cases that are judged by name.
 */

/** A case takes one item out of the matrix, or all that its customer owes. */
export interface CaseOf {
  id: number
  customerId: number
  itemId: number | null
}

export interface ExposedAsk {
  /** Days since 1970. */
  day: number
  /** Upper bounds in days late of all bands but the last. */
  bounds: readonly number[]
  cases: readonly CaseOf[]
}

/** Sums of claims in minor units: in the currency of the claims, and in base currency. */
export interface Claims {
  customerId: number
  currency: string
  band: number
  gross: number
  base: number
}

export interface Exposed {
  /** Of all customers, those of cases among them. */
  claims: Claims[]
  cases: (Omit<Claims, 'customerId'> & { id: number })[]
}

/** By code of a kind whether it is a claim on the customer. */
export const isClaim = (code: number): boolean => KINDS[kindOf(code)].receivable

/** Claims that are open, summed. Credit on account makes none of them safer, and is left out. */
export function exposedOf(
  ledger: LedgerImage,
  customers: Customers,
  { table }: Open,
  { day, bounds, cases }: ExposedAsk,
): Exposed {
  const buckets = bucketsOf(bounds)
  const places = placesOf(buckets)
  const bands = buckets.length
  const many = ledger.currencies.length
  const width = many * bands
  const gross = new Float64Array(customers.count * width)
  const base = new Float64Array(customers.count * width)
  const caseOfItem = new Map<number, number>()
  const caseOfRow = new Map<number, number>()
  for (const one of cases) {
    if (one.itemId === null) caseOfRow.set(customers.rowOf(one.customerId), one.id)
    else caseOfItem.set(one.itemId, one.id)
  }
  const named = new Map<string, Exposed['cases'][number]>()
  const { kind, id: itemIds } = ledger.items.column
  for (let place = 0; place < table.count; place++) {
    const amount = table.amount[place]!
    const item = table.item[place]!
    if (amount === 0 || table.debit[place] === 0 || !isClaim(kind[item]!)) continue
    const row = customers.rowOf(table.customer[place]!)
    if (row < 0) continue
    const code = table.currency[place]!
    const band = placeAt(places, day - table.dueDay[place]!)
    const slot = row * width + code * bands + band
    gross[slot]! += amount
    base[slot]! += table.base[place]!
    const id = caseOfItem.get(itemIds[item]!) ?? caseOfRow.get(row)
    if (id === undefined) continue
    const key = `${id} ${code} ${band}`
    const sum = named.get(key) ?? { id, currency: ledger.currencies[code]!, band, gross: 0, base: 0 }
    sum.gross += amount
    sum.base += table.base[place]!
    named.set(key, sum)
  }
  const claims: Claims[] = []
  for (let slot = 0; slot < gross.length; slot++) {
    if (gross[slot] === 0) continue
    const within = slot % width
    claims.push({
      customerId: customers.rows[(slot - within) / width]!.id,
      currency: ledger.currencies[Math.floor(within / bands)]!,
      band: within % bands,
      gross: gross[slot]!,
      base: base[slot]!,
    })
  }
  return { claims, cases: [...named.values()] }
}

/** What is known of a customer beside the ledger. */
export interface BearerOf {
  riskClass: string
  /** What an insurer bears of it, base minor units. */
  insured: number
}

/** A case as it is judged. */
export interface JudgedCase extends CaseOf {
  rate: number
}

const claimKey = (customerId: number, currency: string, band: number) => `${customerId} ${currency} ${band}`

/**
 * What the matrix and the named cases are worked out from. The insurer bears the claims of a customer that
 * are no named case, by their share of them.
 */
export function inBands(
  { claims, cases: sums }: Exposed,
  cases: readonly JudgedCase[],
  bearerOf: (customerId: number) => BearerOf,
): { open: OpenInBand[]; named: NamedCase[] } {
  const named = cases.flatMap(({ id, customerId, rate }): NamedCase[] => {
    const own = sums.filter(s => s.id === id)
    return [...new Set(own.map(s => s.currency))].sort().map(currency => {
      const byBand = own.filter(s => s.currency === currency)
      return {
        ...{ id, customerId, currency, rate, byBand },
        gross: byBand.reduce((sum, b) => sum + b.gross, 0),
        base: byBand.reduce((sum, b) => sum + b.base, 0),
      }
    })
  })
  const takenOut = new Map<string, { gross: number; base: number }>()
  for (const { customerId, currency, byBand } of named)
    for (const { band, gross, base } of byBand) {
      const key = claimKey(customerId, currency, band)
      const sum = takenOut.get(key) ?? { gross: 0, base: 0 }
      takenOut.set(key, { gross: sum.gross + gross, base: sum.base + base })
    }
  const open: OpenInBand[] = []
  for (let from = 0; from < claims.length;) {
    const { customerId } = claims[from]!
    let to = from
    while (to < claims.length && claims[to]!.customerId === customerId) to++
    open.push(...ofCustomer(claims.slice(from, to), takenOut, bearerOf(customerId)))
    from = to
  }
  return { open, named }
}

/** The claims of one customer, with what of each the insurer bears. */
function ofCustomer(
  claims: readonly Claims[],
  takenOut: ReadonlyMap<string, { gross: number; base: number }>,
  { riskClass, insured }: BearerOf,
): OpenInBand[] {
  const left = claims.map(c => {
    const out = takenOut.get(claimKey(c.customerId, c.currency, c.band))
    return { gross: c.gross - (out?.gross ?? 0), base: c.base - (out?.base ?? 0) }
  })
  const bases = left.map(l => l.base)
  const cover = Math.min(
    insured,
    bases.reduce((a, b) => a + b, 0),
  )
  const borne = cover > 0 ? split(cover, bases) : bases.map(() => 0)
  return claims.map((claim, n) => ({
    ...claim,
    riskClass,
    borne: borne[n] ? share(left[n]!.gross, borne[n], left[n]!.base) : 0,
    borneBase: borne[n]!,
  }))
}
