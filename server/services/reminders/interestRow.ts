import type { InterestLine } from '../../../core/interest'

/** A period of interest as it is kept: which document charges it, and on what. */
export const interestRow = (documentItemId: number, itemId: number, line: InterestLine) => ({
  document_item_id: documentItemId,
  item_id: itemId,
  from_date: line.from,
  to_date: line.to,
  days: line.days,
  rate: line.rate,
  base: line.base,
  amount: line.amount,
})
