import { z } from 'zod'
import { dryRunAnswer } from './reminders/insight'
import { FIELDS, FIELD_NAMES } from '../core/accounts'
import { statementResult } from './banking/lines'
import { bytes, fault, flag, id } from './common'
import { operation } from './operation'

/** Columns that name another record: a customer by number, people by e-mail. */
export const CUSTOMER_REFERENCES = ['parent', 'controller', 'sales'] as const
export const CUSTOMER_COLUMNS: readonly string[] = [
  'number',
  ...FIELD_NAMES.map(field => FIELDS[field].column),
  ...CUSTOMER_REFERENCES,
]
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
  waiting: z.int().describe('changes of limits and bank details that a second person signs'),
  skipped: z.int(),
  unknownColumns: z.array(z.string()),
  totals: z.array(z.object({ currency: z.string(), debit: z.int(), credit: z.int() })),
  sample: z.array(z.record(z.string(), z.string())),
  changes: z
    .array(z.object({ number: z.string(), field: z.string(), before: z.string(), after: z.string() }))
    .describe('of records that are there already, the first of them'),
})
export type ImportResult = z.infer<typeof importResult>
export const job = z.object({
  id: z.int(),
  kind: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  step: z.string(),
  done: z.int(),
  total: z.int(),
  result: z
    .union([
      importResult,
      statementResult,
      z.object({ letters: z.int(), left: z.int() }),
      z.object({ notices: z.int() }),
      z.object({ collections: z.int() }),
      dryRunAnswer,
    ])
    .nullable(),
  errors: z.array(fault),
  detail: z.string(),
  status: z.int().nullable().describe('of a failed job: as the status of a problem document'),
})
export type Job = z.infer<typeof job>

const query = z.object({
  dryRun: flag.describe('1: check only, import nothing'),
  skipExisting: flag.describe('1: leave numbers out that are there already'),
  update: flag.describe('1: customers that are there already are changed where the file says otherwise'),
  opening: flag.describe('1: documents were open before these books began: posted against opening balances'),
})
const importKind = z.enum(['customers', 'documents', 'orders'])
export const importMap = z.object({
  kind: importKind,
  headerRow: z.int().min(0).max(20),
  columns: z.record(z.string().max(40), z.int().min(0).max(500)),
  fixed: z.record(z.string().max(40), z.string().max(200)),
  order: z.enum(['DMY', 'MDY', 'YMD']),
  decimal: z.enum(['.', ',']),
  negativeIsCredit: z.boolean(),
  leaveOutZero: z.boolean(),
})
export type ImportMapBody = z.infer<typeof importMap>
export const importLook = z.object({
  format: z.enum(['CSV', 'XLSX']),
  encoding: z.string(),
  delimiter: z.string(),
  rows: z.int().describe('with those above the names of the columns'),
  top: z.array(z.array(z.string())).describe('the first rows as they stand'),
  topLines: z.array(z.int()).describe('line of the file for each of them'),
  map: importMap,
  dateUnsure: z.boolean().describe('nothing in the file tells day and month apart'),
  remembered: z.boolean().describe('a table of these columns was imported before'),
})
export type ImportLook = z.infer<typeof importLook>
export const importConverted = z.object({
  header: z.array(z.string()).describe('our own columns'),
  rows: z.array(z.array(z.string())).describe('cells in our own forms'),
  lines: z.array(z.int()).describe('line of the file for each row'),
  leftOut: z.int().describe('rows over nothing, and sums'),
})
export type ImportConverted = z.infer<typeof importConverted>
const csv = { bodyType: 'text/csv', body: z.string(), query, response: importResult }
const params = z.object({ id })

export const imports = {
  customers: operation({
    method: 'post',
    path: '/api/documents/imports/customers',
    summary: 'Import customers from CSV',
    job: true,
    ability: 'import',
    ...csv,
  }),
  documents: operation({
    method: 'post',
    path: '/api/documents/imports/documents',
    summary: 'Import invoices, credit notes and debit notes from CSV',
    job: true,
    ability: 'import',
    ...csv,
  }),
  orders: operation({
    method: 'post',
    path: '/api/documents/imports/orders',
    summary: 'Import orders and deliveries from CSV; known ones are changed',
    job: true,
    ability: 'import',
    ...csv,
  }),
  look: operation({
    method: 'post',
    path: '/api/documents/imports/look',
    summary: 'Look at a table of any form (CSV of any encoding, XLSX): what its columns may be',
    ability: 'import',
    ...bytes,
    query: z.object({ kind: importKind.optional() }),
    response: importLook,
  }),
  convert: operation({
    method: 'post',
    path: '/api/documents/imports/convert',
    summary: 'Bring a table of any form into the columns that the imports take',
    ability: 'import',
    ...bytes,
    query: z.object({
      map: z
        .string()
        .max(6000)
        .describe('what its columns hold, JSON as `look` answers it')
        .meta({
          example:
            '{"kind":"customers","headerRow":0,"columns":{"number":0,"name":1},"fixed":{"country":"IE"},' +
            '"order":"DMY","decimal":".","negativeIsCredit":true,"leaveOutZero":true}',
        }),
      remember: flag.describe('1: tables of these columns are read so again'),
    }),
    response: importConverted,
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
