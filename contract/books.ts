import { z } from 'zod'
import { cursor, id, isoDate, limit, minor, search } from './common'
import { operation } from './operation'

export const entryLine = z.object({
  account: z.string(),
  accountName: z.string(),
  customer: z.string().nullable(),
  item: z.string().nullable(),
  currency: z.string(),
  amount: minor,
  baseAmount: minor,
})
export const entry = z.object({
  number: z.int(),
  date: z.string(),
  kind: z.string(),
  text: z.string(),
  by: z.string(),
  at: z.string(),
  lines: z.array(entryLine),
})
export type Entry = z.infer<typeof entry>
export const tieOut = z.object({
  account: z.string(),
  name: z.string(),
  base: z.string(),
  ties: z.boolean(),
  rows: z.array(
    z.object({ currency: z.string(), ledger: minor, control: minor, ledgerBase: minor, controlBase: minor }),
  ),
  ledgerBase: minor,
  controlBase: minor,
})
export type TieOut = z.infer<typeof tieOut>

const auditRow = z.object({
  id: z.int(),
  at: z.string(),
  by: z.string(),
  what: z.string(),
  about: z.string(),
  before: z.string().nullable(),
  after: z.string().nullable().describe('as it is, or what was asked for; long ones are cut'),
})
export type AuditRow = z.infer<typeof auditRow>

export const books = {
  entries: operation({
    method: 'get',
    path: '/api/books/entries',
    summary: 'The journal, newest first',
    ability: 'books.read',
    query: z.object({
      from: isoDate.optional(),
      to: isoDate.optional(),
      account: z.string().max(16).optional(),
      kind: z.string().max(16).optional(),
      customer: z.string().max(32).optional(),
      number: id.optional(),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(entry),
      base: z.string(),
      totals: z.object({ entries: z.int(), debit: minor, credit: minor }),
      next: z.string().nullable(),
    }),
  }),
  trialBalance: operation({
    method: 'get',
    path: '/api/books/trial-balance',
    summary: 'Balance of every ledger account as of a date, in base currency',
    ability: 'books.read',
    query: z.object({ asOf: isoDate.optional() }),
    response: z.object({
      asOf: z.string(),
      base: z.string(),
      items: z.array(
        z.object({ number: z.string(), name: z.string(), type: z.string(), debit: minor, credit: minor }),
      ),
      totals: z.object({ debit: minor, credit: minor }),
    }),
  }),
  audit: operation({
    method: 'get',
    path: '/api/books/audit',
    summary: 'The audit trail: who did what, and what it was before and after; the newest first',
    ability: 'audit.read',
    query: z.object({
      from: isoDate.optional(),
      to: isoDate.optional(),
      what: z.string().max(64).optional().describe('name of the Command, or of the thing that changed'),
      person: z.string().max(190).optional().describe('e-mail'),
      search: search.describe('in what it concerns, and in what was asked for'),
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(auditRow),
      count: z.int(),
      whats: z.array(z.string()).describe('all that stands in the trail'),
      people: z.array(z.object({ email: z.string(), name: z.string() })),
      next: z.string().nullable(),
    }),
  }),
  tieOut: operation({
    method: 'get',
    path: '/api/books/tie-out',
    summary: 'Open items against the control account, by currency and in base',
    ability: 'books.read',
    query: z.object({ asOf: isoDate.optional() }),
    response: tieOut,
  }),
}
