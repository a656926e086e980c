import type { AllowanceMatrix } from './allowance'
import { RELIEF_START, type ReliefPolicy } from './relief'

/** How the house gives up claims, from Setup. Amounts in minor units of the base currency. */
export interface ImpairmentPolicy {
  relief: ReliefPolicy
  /** A small balance is one of which not more than this is open, */
  smallMost: number
  /** so many days after it was due. */
  smallDays: number
  allowance: AllowancePolicy
}

/** Age bands by their upper bounds in days late, and the rates of each. */
export interface AllowancePolicy {
  bounds: number[]
  matrix: AllowanceMatrix
}

/**
 * Where a house begins: our judgement, but for the rates, which are those of IFRS 9, Illustrative Example 12
 * (from memory). Its own losses should replace them.
 */
export const IMPAIRMENT_POLICY: ImpairmentPolicy = {
  relief: RELIEF_START,
  smallMost: 1000,
  smallDays: 90,
  allowance: { bounds: [30, 60, 90], matrix: { rest: [30, 160, 360, 660, 1060], byClass: {} } },
}
