import { z } from 'zod'

/*
 * The cells of a row that a statement of ours answers, for the schema that stands beside it. Reads that page
 * and sum are SQL, so nothing but their schema says what they answer: `Handle.rows` holds the rows against it
 * in all tests.
 */
export const cell = {
  /** An id, a count or an amount in minor units, as the column has it. */
  whole: z.number().int(),
  /** A sum or a count over rows: exact, so it may come as text; `int` makes a number of it. */
  sum: z.union([z.number().int(), z.string().regex(/^-?\d+$/)]).nullable(),
  /** A decimal, as text. */
  decimal: z.string().regex(/^-?\d+(\.\d+)?$/),
  text: z.string(),
  /** Text that is one of a few words, where their list is long: it is checked when it is written. */
  word: <V extends string>() => z.string() as unknown as z.ZodType<V>,
  /** 0 or 1. */
  flag: z.number().int().min(0).max(1),
  /** A calendar day, YYYY-MM-DD. */
  day: z.iso.date(),
  /** A point in time, UTC, in ISO 8601. */
  instant: z.iso.datetime(),
}

/** Whether rows are held against their schemas: in tests, browser tests and simulations. */
export const checksRows = process.env.NODE_ENV === 'test' || process.env.BILANCIO_CHECK_ROWS === '1'

/** Throws when the rows are not what their schema says: a fault of ours. */
export function checkRows(schema: z.ZodType, rows: readonly unknown[], sql: string): void {
  for (const row of rows) {
    const checked = schema.safeParse(row)
    if (!checked.success)
      throw new Error(
        `a row is not what its schema says: ${z.prettifyError(checked.error)} in ${sql.trim().slice(0, 60)}`,
      )
  }
}
