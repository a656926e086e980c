import { z } from 'zod'
import { statementResult } from './banking/lines'
import { fault, flag, id } from './common'
import { operation } from './operation'

export const CUSTOMER_COLUMNS = [
  'number',
  'name',
  'class',
  'country',
  'language',
  'currency',
  'terms',
  'credit_limit',
  'contact',
  'email',
  'phone',
  'iban',
  'vat_number',
  'parent',
] as const
export const DOCUMENT_COLUMNS = [
  'number',
  'kind',
  'customer',
  'date',
  'due_date',
  'currency',
  'amount',
  'tax',
  'discount_date',
  'discount_amount',
  'order',
  'text',
] as const

export const importResult = z.object({
  dryRun: z.boolean(),
  rows: z.int(),
  imported: z.int(),
  updated: z.int(),
  skipped: z.int(),
  unknownColumns: z.array(z.string()),
  totals: z.array(z.object({ currency: z.string(), debit: z.int(), credit: z.int() })),
  sample: z.array(z.record(z.string(), z.string())),
})
export type ImportResult = z.infer<typeof importResult>
export const job = z.object({
  id: z.int(),
  kind: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  step: z.string(),
  done: z.int(),
  total: z.int(),
  result: z.union([importResult, statementResult]).nullable(),
  errors: z.array(fault),
  detail: z.string(),
  status: z.int().nullable().describe('of a failed job: as the status of a problem document'),
})
export type Job = z.infer<typeof job>

const query = z.object({
  dryRun: flag.describe('1: check only, import nothing'),
  skipExisting: flag.describe('1: leave numbers out that are there already'),
})
const csv = { bodyType: 'text/csv', body: z.string(), query, response: importResult }
const params = z.object({ id })

export const imports = {
  customers: operation({
    method: 'post',
    path: '/api/documents/imports/customers',
    summary: 'Import customers from CSV. With `Prefer: respond-async` answers 202 with a job',
    ability: 'import',
    ...csv,
  }),
  documents: operation({
    method: 'post',
    path: '/api/documents/imports/documents',
    summary:
      'Import invoices, credit notes and debit notes from CSV. With `Prefer: respond-async` answers ' +
      '202 with a job',
    ability: 'import',
    ...csv,
  }),
  job: operation({
    method: 'get',
    path: '/api/jobs/{id}',
    summary: 'State of a job',
    ability: 'read',
    params,
    response: job,
  }),
  events: operation({
    method: 'get',
    path: '/api/jobs/{id}/events',
    summary: 'Progress of a job as server-sent events',
    ability: 'read',
    params,
    responseType: 'text/event-stream',
  }),
  cancel: operation({
    method: 'delete',
    path: '/api/jobs/{id}',
    summary: 'Stop a job; nothing of it stays',
    ability: 'import',
    params,
    response: job,
  }),
}
