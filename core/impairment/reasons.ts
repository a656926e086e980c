/** Why a claim is given up, as the report tells it. Ours. */
export const WRITE_OFF_REASONS = {
  insolvency: 'Insolvency',
  uncollectable: 'Cannot be collected',
  'time-barred': 'Time-barred',
  small: 'Small balance',
  goodwill: 'Goodwill',
} as const
export type WriteOffReason = keyof typeof WRITE_OFF_REASONS

/** What becomes of the seller's commission on what is given up: asked, never assumed. */
export const COMMISSION = {
  kept: 'Kept by the seller',
  'taken-back': 'Taken back from the seller',
} as const
export type Commission = keyof typeof COMMISSION

/** Why a case is judged by name. Ours. */
export const CASE_KINDS = {
  insolvency: 'Insolvency',
  dispute: 'Dispute',
  lawyer: 'With a lawyer or agency',
} as const
export type CaseKind = keyof typeof CASE_KINDS
