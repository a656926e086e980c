/** What became of a call. `reached`: somebody was spoken to. */
export const OUTCOMES = {
  reached: { label: 'Reached', reached: true },
  'not-reached': { label: 'Not reached', reached: false },
  promised: { label: 'Promised', reached: true },
  disputed: { label: 'Disputed', reached: true },
  'wrong-contact': { label: 'Wrong contact', reached: false },
  copies: { label: 'Asked for copies', reached: true },
} as const
export type Outcome = keyof typeof OUTCOMES
export const OUTCOME_CODES = Object.keys(OUTCOMES) as Outcome[]
