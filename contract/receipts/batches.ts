import { z } from 'zod'
import { cursor, currency, customerRef, id, isoDate, limit, minor } from '../common'
import { operation } from '../operation'
import { receiptBody } from '.'

const params = z.object({ id })
const rowParams = z.object({ id, receipt: id })
export const batchBody = z.object({
  currency,
  date: isoDate,
  text: z.string().trim().max(120).default(''),
  controlTotal: z.int().min(1).nullable().default(null).describe('sum of the slips in hand, minor units'),
  controlCount: z.int().min(1).max(10_000).nullable().default(null),
  version: z.int().optional(),
})
export const batchRow = z.object({
  id: z.int(),
  number: z.string().nullable().describe('given when the batch is closed'),
  state: z.enum(['open', 'closed']),
  currency: z.string(),
  date: z.string(),
  text: z.string(),
  controlTotal: minor.nullable(),
  controlCount: z.int().nullable(),
  total: minor,
  count: z.int(),
  toGo: minor.nullable().describe('control total less what is keyed'),
  countToGo: z.int().nullable(),
  by: z.string(),
  mine: z.boolean(),
  at: z.string(),
  closedAt: z.string().nullable(),
  version: z.int(),
})
export type BatchRow = z.infer<typeof batchRow>
export const batchDetail = batchRow.extend({
  receipts: z.array(
    z.object({
      id: z.int(),
      customer: customerRef,
      amount: minor,
      means: z.string(),
      reference: z.string(),
      allocated: minor,
      onAccount: minor,
      items: z.array(z.string()),
      body: receiptBody,
      version: z.int(),
      receipt: z.object({ id: z.int(), number: z.string() }).nullable(),
    }),
  ),
})
export type BatchDetail = z.infer<typeof batchDetail>

export const batches = {
  list: operation({
    method: 'get',
    path: '/api/receipts/batches',
    summary: 'Batches of receipts, open ones first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({ items: z.array(batchRow), next: z.string().nullable() }),
  }),
  detail: operation({
    method: 'get',
    path: '/api/receipts/batches/{id}',
    summary: 'One batch with its receipts',
    ability: 'books.read',
    params,
    response: batchDetail,
  }),
  open: operation({
    method: 'post',
    path: '/api/receipts/batches',
    summary: 'Open a batch; everybody has one at a time',
    ability: 'receipts.post',
    body: batchBody,
    response: batchDetail,
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/receipts/batches/{id}',
    summary: 'Change control total, count, date or text of an open batch',
    ability: 'receipts.post',
    params,
    body: batchBody,
    response: batchDetail,
  }),
  drop: operation({
    method: 'delete',
    path: '/api/receipts/batches/{id}',
    summary: 'Delete an open batch that has no allocations',
    ability: 'receipts.post',
    params,
    status: 204,
  }),
  add: operation({
    method: 'post',
    path: '/api/receipts/batches/{id}/receipts',
    summary: 'Key a receipt into a batch; it is posted when the batch is closed',
    ability: 'receipts.post',
    params,
    body: receiptBody,
    response: batchDetail,
    status: 201,
  }),
  edit: operation({
    method: 'put',
    path: '/api/receipts/batches/{id}/receipts/{receipt}',
    summary: 'Change a receipt of an open batch',
    ability: 'receipts.post',
    params: rowParams,
    body: receiptBody.extend({ version: z.int() }),
    response: batchDetail,
  }),
  remove: operation({
    method: 'delete',
    path: '/api/receipts/batches/{id}/receipts/{receipt}',
    summary: 'Take a receipt out of an open batch',
    ability: 'receipts.post',
    params: rowParams,
    response: batchDetail,
  }),
  close: operation({
    method: 'post',
    path: '/api/receipts/batches/{id}/close',
    summary: 'Close a batch: its receipts are posted, all or none',
    ability: 'receipts.post',
    params,
    body: z.object({ version: z.int() }),
    response: batchDetail,
  }),
  register: operation({
    method: 'get',
    path: '/api/receipts/batches/{id}/register',
    summary: 'The register of a batch as PDF',
    ability: 'books.read',
    params,
    responseType: 'application/pdf',
  }),
}
