/*
 * Why banks return or refuse a payment: codes of the ISO 20022 external code sets (from memory), with what is
 * usually done. What the house does is in Setup; this is where it starts from.
 */

/** What follows when a collection comes back. `again`: present it once more on a later day. */
export const RETURN_ACTIONS = {
  again: 'Present again',
  stop: 'Stop the mandate',
  chase: 'Chase by telephone',
  correct: 'Correct the account',
} as const
export type ReturnAction = keyof typeof RETURN_ACTIONS

export interface ReturnReason {
  label: string
  action: ReturnAction
}

export const RETURN_REASONS: Readonly<Record<string, ReturnReason>> = {
  AC01: { label: 'Account number is wrong', action: 'correct' },
  AC04: { label: 'Account is closed', action: 'stop' },
  AC06: { label: 'Account is blocked', action: 'stop' },
  AC13: { label: 'Account of a consumer', action: 'stop' },
  AG01: { label: 'Account takes no direct debits', action: 'stop' },
  AG02: { label: 'Wrong code of the transaction', action: 'chase' },
  AM04: { label: 'Not enough money', action: 'again' },
  AM05: { label: 'Came twice', action: 'chase' },
  BE05: { label: 'Creditor is not known', action: 'correct' },
  CNOR: { label: 'Bank of the creditor is not reached', action: 'chase' },
  DNOR: { label: 'Bank of the debtor is not reached', action: 'correct' },
  FF01: { label: 'File format', action: 'chase' },
  FOCR: { label: 'Called back', action: 'chase' },
  MD01: { label: 'No mandate', action: 'stop' },
  MD02: { label: 'Details of the mandate are wrong', action: 'correct' },
  MD06: { label: 'Customer asked for its money back', action: 'chase' },
  MD07: { label: 'Customer has died', action: 'stop' },
  MS02: { label: 'Customer refused', action: 'chase' },
  MS03: { label: 'Reason not told', action: 'chase' },
  RC01: { label: 'Bank code is wrong', action: 'correct' },
  RR04: { label: 'Regulatory reason', action: 'chase' },
  SL01: { label: 'Debtor’s bank keeps it from collecting', action: 'chase' },
}

/** Stands where no reason was told. */
export const NO_REASON = 'MS03'

/** A code in words; one that is not known says so itself. */
export const reasonLabel = (code: string): string =>
  RETURN_REASONS[code]?.label ?? (code ? `Reason ${code}` : 'Reason not told')

/** After the house's rules, what follows a reason. */
export const actionFor = (code: string, own: Readonly<Record<string, ReturnAction>>): ReturnAction =>
  own[code] ?? RETURN_REASONS[code]?.action ?? 'chase'
