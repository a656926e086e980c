/*
 * What needs a second person. Each kind stands here once; a Command says of which kind it is and how much is
 * at stake, and the thresholds of the house say whether somebody else has to sign.
 */

export interface SignOffKind {
  label: string
  /** What its threshold is compared with. */
  measure: string
}

const KIND_ROWS = {
  limit: { label: 'Credit limit', measure: 'by how much the limit rises' },
  bank: { label: 'Bank details', measure: 'always' },
  hold: { label: 'Release of a hold', measure: 'exposure of the account' },
  credit: { label: 'Credit note', measure: 'what it credits' },
  'write-off': { label: 'Write-off', measure: 'what is given up' },
  refund: { label: 'Refund', measure: 'the largest refund of it; always to a changed bank account' },
  lapse: { label: 'Unclaimed credit', measure: 'what is taken off the account' },
  waiver: { label: 'Waived fee or interest', measure: 'what is given up' },
} satisfies Record<string, SignOffKind>

export type Signed = keyof typeof KIND_ROWS
export const SIGN_OFF_KINDS: Readonly<Record<Signed, SignOffKind>> = KIND_ROWS
export const SIGNED = Object.keys(SIGN_OFF_KINDS) as Signed[]

/** By kind and currency, the amount up to which one person is enough, in minor units. */
export type Thresholds = Partial<Record<Signed, Readonly<Record<string, number>>>>

/** Until the house says otherwise everything is signed by a second person: our judgement, the safe side. */
export const THRESHOLDS: Thresholds = {}

/** What is at stake; without an amount, always signed. */
export interface Stake {
  kind: Signed
  /** In its own currency, and the same in base currency; null: no amount tells how much it matters. */
  amount: number | null
  currency: string
  baseAmount: number | null
}

/**
 * Whether a second person has to sign: above the threshold of the kind in its currency, else above that in
 * base currency. Without any threshold, always.
 */
export function needsSecond(stake: Stake, thresholds: Thresholds, base: string): boolean {
  if (stake.amount === null || stake.baseAmount === null) return true
  const own = thresholds[stake.kind] ?? {}
  const inCurrency = own[stake.currency]
  if (inCurrency !== undefined) return stake.amount > inCurrency
  return stake.baseAmount > (own[base] ?? 0)
}

/** Somebody stands in for another on these days, bounds included. */
export interface Deputy {
  absentId: number
  deputyId: number
  from: string
  until: string
}

/** For whom a person signs on a day, beside themselves. */
export function standsInFor(deputies: readonly Deputy[], personId: number, today: string): number[] {
  return deputies
    .filter(d => d.deputyId === personId && d.from <= today && today <= d.until)
    .map(d => d.absentId)
}
