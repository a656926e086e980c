import { isValidIBAN } from 'ibantools'
import { addMonths, isIsoDate, type IsoDate } from '../calendar'
import { refuse } from '../ledger/rules'
import type { Refusal } from '../ledger/types'
import { isReached } from '../payments'

/*
 * Mandates: what allows us to collect from an account. The rules are those of the SEPA direct debit schemes
 * (rulebooks of the EPC, from memory).
 */

export const SCHEMES = {
  CORE: 'Core, any debtor',
  B2B: 'Between businesses',
} as const
export type Scheme = keyof typeof SCHEMES
export type Sequence = 'FRST' | 'RCUR' | 'OOFF' | 'FNAL'

/** For one collection only, or for all that follow. */
export type MandateUse = 'recurring' | 'one-off'
/** `cancelled` for good; `final`: the last collection was told as such. */
export const MANDATE_STATES = {
  active: 'Active',
  suspended: 'Suspended',
  cancelled: 'Cancelled',
  final: 'Used to the end',
} as const
export type MandateState = keyof typeof MANDATE_STATES

export interface Mandate {
  id: number
  reference: string
  scheme: Scheme
  use: MandateUse
  signedOn: IsoDate
  iban: string
  bic: string
  holder: string
  state: MandateState
  /** The collection day of the last use; null: never used. */
  lastUsed: IsoDate | null
  /** Most that one collection may take, minor units; null for no limit. */
  most: number | null
  /** Days of advance notice that were agreed; null: those of the house. */
  noticeDays: number | null
  /** The next collection is to be told as the last one. */
  endsNext: boolean
}

/** A mandate that was not used for so long lapses. */
export const LAPSES_AFTER_MONTHS = 36

/** The day from which a mandate may not be used any more, unless it is used before. */
export const lapsesOn = (m: Pick<Mandate, 'lastUsed' | 'signedOn'>): IsoDate =>
  addMonths(m.lastUsed ?? m.signedOn, LAPSES_AFTER_MONTHS)

/** How a collection by a mandate is told to the bank. */
export function sequenceOf(m: Pick<Mandate, 'use' | 'lastUsed' | 'endsNext'>): Sequence {
  if (m.use === 'one-off') return 'OOFF'
  if (m.endsNext) return 'FNAL'
  return m.lastUsed === null ? 'FRST' : 'RCUR'
}

/** Why a mandate cannot be used for a collection on a day, in words; empty when it can. */
export function unusable(m: Mandate, day: IsoDate): string {
  if (m.state !== 'active') return `mandate ${m.reference} is ${MANDATE_STATES[m.state].toLowerCase()}`
  if (m.signedOn > day) return `mandate ${m.reference} was signed on ${m.signedOn}, after the collection`
  if (m.use === 'one-off' && m.lastUsed !== null) return `mandate ${m.reference} was for one collection only`
  if (day >= lapsesOn(m))
    return `mandate ${m.reference} lapsed on ${lapsesOn(m)}: it was not used for 36 months`
  if (!isReached(m.iban)) return `the SEPA does not reach the account of mandate ${m.reference}`
  return ''
}

/** What a person says of a mandate. */
export interface MandateForm {
  /** Empty: the next of our series. */
  reference: string
  scheme: Scheme
  use: MandateUse
  signedOn: IsoDate
  iban: string
  bic: string
  holder: string
  most: number | null
  noticeDays: number | null
}

const MOST_NOTICE_DAYS = 60
/** What a mandate may be called: 1 to 35 signs of the SEPA, without a space or "//". */
const REFERENCE = /^(?!\/)(?!.*\/\/)[A-Za-z0-9+?/\-:().,']{1,35}(?<!\/)$/

/**
 * What is wrong with a mandate as it is entered on a day. `taken`: its reference is another's. `lastUsed`: of
 * one that comes from elsewhere, in use.
 */
export function mandateRefusals(
  form: MandateForm,
  today: IsoDate,
  taken: boolean,
  lastUsed: IsoDate | null = null,
): Refusal[] {
  const refusals: Refusal[] = []
  if (form.reference && !REFERENCE.test(form.reference))
    refusals.push(
      refuse(
        'mandate.reference',
        'reference',
        `"${form.reference}" cannot be the reference of a mandate`,
        "1 to 35 letters, digits and + ? / - : ( ) . , ' without spaces",
      ),
    )
  if (taken)
    refusals.push(
      refuse(
        'mandate.taken',
        'reference',
        `there is a mandate ${form.reference} already`,
        'amend that one, or use another reference',
      ),
    )
  if (!isIsoDate(form.signedOn) || form.signedOn > today)
    refusals.push(
      refuse('mandate.signed', 'signedOn', 'a mandate is signed before it is entered', `${today} or earlier`),
    )
  else if (today >= lapsesOn({ lastUsed, signedOn: form.signedOn }))
    refusals.push(
      refuse(
        'mandate.lapsed',
        'signedOn',
        'a mandate that was not used for 36 months has lapsed',
        'have a new one signed',
      ),
    )
  if (!isValidIBAN(form.iban))
    refusals.push(refuse('mandate.iban', 'iban', `"${form.iban}" is not a valid IBAN`, 'check its digits'))
  else if (!isReached(form.iban))
    refusals.push(
      refuse(
        'mandate.reach',
        'iban',
        `the SEPA does not reach accounts of ${form.iban.slice(0, 2)}`,
        'collect from an account in the SEPA',
      ),
    )
  if (!form.holder.trim())
    refusals.push(refuse('mandate.holder', 'holder', 'whose account is it?', 'enter the name of its holder'))
  if (form.most !== null && form.most <= 0)
    refusals.push(refuse('mandate.most', 'most', 'a limit is more than zero', 'leave it empty for none'))
  if (form.noticeDays !== null && (form.noticeDays < 0 || form.noticeDays > MOST_NOTICE_DAYS))
    refusals.push(
      refuse('mandate.notice', 'noticeDays', 'that many days are no notice', `0 to ${MOST_NOTICE_DAYS} days`),
    )
  return refusals
}
