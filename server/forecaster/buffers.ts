import type { KnownLedger } from '../../core/forecast'

/** Buffers of a ledger: they move from thread to thread, and are not copied. */
export const buffersOf = ({ past, house, after, ...rest }: KnownLedger): ArrayBuffer[] =>
  [past, house, after ?? {}, rest].flatMap(part =>
    Object.values(part).flatMap(value => (ArrayBuffer.isView(value) ? [value.buffer as ArrayBuffer] : [])),
  )
