/*
 * What a bank answers to a file: customer payment status reports (pain.002).
 */

/** Of one payment, or of the whole file or block. `code`: why it was refused, empty for no reason. */
export interface PaymentStatus {
  endToEndId: string
  status: string
  code: string
  text: string
}

export interface BankAnswer {
  /** Of the report itself. */
  id: string
  /** Of the file that it answers. */
  fileId: string
  /** Of the whole file; empty when only payments are told. */
  status: string
  code: string
  text: string
  /** Of the blocks that are told. */
  blocks: { id: string; status: string; code: string; text: string }[]
  payments: PaymentStatus[]
}

const REFUSED = 'RJCT'

/** A payment that the bank will not make, or took back. */
export interface Refused {
  endToEndId: string
  code: string
  text: string
}

export interface FilePayment {
  endToEndId: string
  blockId: string
}

/**
 * Which payments of a file an answer refuses: all when the file was, those of a block when that was, and each
 * that is named. A payment that is told twice is refused once.
 */
export function refusedBy(answer: BankAnswer, payments: readonly FilePayment[]): Refused[] {
  if (answer.status === REFUSED)
    return payments.map(({ endToEndId }) => ({ endToEndId, code: answer.code, text: answer.text }))
  const blocks = new Map(answer.blocks.filter(b => b.status === REFUSED).map(b => [b.id, b]))
  const named = new Map(answer.payments.filter(p => p.status === REFUSED).map(p => [p.endToEndId, p]))
  return payments.flatMap(({ endToEndId, blockId }) => {
    const why = named.get(endToEndId) ?? blocks.get(blockId)
    return why ? [{ endToEndId, code: why.code, text: why.text }] : []
  })
}

/** Payments that an answer names and the file does not hold: the answer is somebody else's. */
export function strangersIn(answer: BankAnswer, payments: readonly FilePayment[]): string[] {
  const own = new Set(payments.map(p => p.endToEndId))
  return answer.payments.map(p => p.endToEndId).filter(id => !own.has(id))
}
