export interface Difference {
  what: string
  row: string
  expected: string
  found: string
}

/**
 * What is checked, and a SELECT of every row for which it does not hold: `k` names it, beside `expected` and
 * `found`.
 */
export type Check = [what: string, sql: string]
