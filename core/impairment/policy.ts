import { RELIEF_START, type ReliefPolicy } from './relief'

/** How the house gives up claims, from Setup. Amounts in minor units of the base currency. */
export interface ImpairmentPolicy {
  relief: ReliefPolicy
  /** A small balance is one of which not more than this is open, */
  smallMost: number
  /** so many days after it was due. */
  smallDays: number
}

/** Where a house begins: our judgement. */
export const IMPAIRMENT_POLICY: ImpairmentPolicy = { relief: RELIEF_START, smallMost: 1000, smallDays: 90 }
