import type { IsoDate } from '../calendar'
import { faultsOf, type FieldFault, type Value, type Values } from './check'
import { FIELDS, fieldsWhere, type Field } from './fields'

/** The fields whose change a second person signs before it holds. */
export const LIMIT_FIELDS: readonly Field[] = fieldsWhere(f => f.signed === 'limit')

/** A limit as it stands: its own, or that of the class where it has none. */
export interface Limit {
  /** Minor units of `currency`; null without a limit. */
  amount: number | null
  currency: string
  from: IsoDate | null
  until: IsoDate | null
  insured: number | null
  insuredUntil: IsoDate | null
}

/** Its own limit, or that of its class, which is in base currency and is none for a limit in another. */
export function limitOf(
  { own, ofClass, currency }: { own: number | null; ofClass: number | null; currency: string },
  base: string,
): Pick<Limit, 'amount' | 'currency'> {
  const kept = currency || base
  return { amount: own ?? (kept === base ? ofClass : null), currency: kept }
}

/** Whether a limit is in force on a day: outside its dates there is none to lean on. */
export function inForceOn({ from, until }: Pick<Limit, 'from' | 'until'>, day: IsoDate): boolean {
  return (from === null || from <= day) && (until === null || day <= until)
}

/** What an insurer covers on a day. */
export const insuredOn = ({ insured, insuredUntil }: Limit, day: IsoDate): number =>
  insured !== null && (insuredUntil === null || day <= insuredUntil) ? insured : 0

export interface LimitAsk {
  /** As whoever asks saw the fields that change. */
  seen: Values
  set: Values
}

/** Of fields that were seen otherwise than they are, those that changed meanwhile. */
export function changedMeanwhile(seen: Values, now: Values): Field[] {
  const same = (a: Value | undefined, b: Value | undefined) => (a ?? '') === (b ?? '')
  return (Object.keys(seen) as Field[]).filter(field => !same(seen[field], now[field]))
}

/** What stands against setting these fields of a limit on what is there now. */
export function limitFaults({ seen, set }: LimitAsk, now: Values): FieldFault[] {
  const stale = changedMeanwhile(seen, now).map((field): FieldFault => {
    const label = FIELDS[field].label.toLowerCase()
    return {
      field,
      message: `${label} was changed meanwhile, from ${String(seen[field] ?? 'none')} to ${String(now[field] ?? 'none')}`,
      satisfy: 'look at it again, and ask anew',
    }
  })
  return [...stale, ...faultsOf({ ...now, ...set }).filter(f => LIMIT_FIELDS.includes(f.field))]
}

/**
 * By how much a limit rises, in minor units of its currency; 0 when it falls, the whole of it where there was
 * none. Null when no amount tells: it is in another currency than before, has no end any more, or only its
 * dates change. `ofClass`: the limit where there is none of its own.
 */
export function rise(before: Values, after: Values, ofClass: number | null): number | null {
  const limit = (values: Values) => (values.creditLimit as number | null | undefined) ?? ofClass
  const [from, to] = [limit(before), limit(after)]
  const isOther = (before.limitCurrency ?? '') !== (after.limitCurrency ?? '')
  if ((isOther && from !== null) || (to === null && from !== null)) return null
  const insured = Number(after.insuredLimit ?? 0) - Number(before.insuredLimit ?? 0)
  const more = (to ?? 0) - (from ?? 0)
  return more === 0 && insured === 0 ? null : Math.max(0, more, insured)
}
