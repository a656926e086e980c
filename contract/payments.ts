import { z } from 'zod'
import { FILE_STATES, type FileState } from '../core/payments'
import { cursor, id, limit, minor } from './common'
import { operation } from './operation'

const params = z.object({ id })
const state = z.enum(Object.keys(FILE_STATES) as [FileState, ...FileState[]])

export const paymentFileRow = z.object({
  id: z.int(),
  number: z.string().describe('the message id that the bank knows it by'),
  kind: z.enum(['transfer', 'debit']),
  scheme: z.enum(['CORE', 'B2B', '']),
  format: z.string(),
  account: z.string(),
  currency: z.string(),
  executeOn: z.string(),
  payments: z.int(),
  total: minor,
  state,
  reason: z.string(),
  madeBy: z.string(),
  at: z.string(),
  sentBy: z.string().nullable(),
  sentAt: z.string().nullable(),
})
export type PaymentFileRow = z.infer<typeof paymentFileRow>

/** Files of payments for the bank: pain.001 and pain.008. */
export const payments = {
  files: operation({
    method: 'get',
    path: '/api/payments/files',
    summary: 'Files of payments, the newest first',
    ability: 'books.read',
    query: z.object({ kind: z.enum(['transfer', 'debit']).optional(), limit, cursor }),
    response: z.object({ items: z.array(paymentFileRow), next: z.string().nullable() }),
  }),
  file: operation({
    method: 'get',
    path: '/api/payments/files/{id}/xml',
    summary: 'A file of payments as it was made (ISO 20022)',
    ability: 'books.read',
    params,
    responseType: 'application/xml',
  }),
  send: operation({
    method: 'post',
    path: '/api/payments/files/{id}/send',
    summary: 'Give a file to the bank; once',
    ability: 'payments.send',
    params,
    response: paymentFileRow,
  }),
  takeBack: operation({
    method: 'post',
    path: '/api/payments/files/{id}/take-back',
    summary: 'Take back a file that was not sent, was lost or was refused: its payments wait again',
    ability: 'payments.send',
    params,
    body: z.object({ reason: z.string().trim().min(1, { error: 'say why' }).max(200) }),
    response: paymentFileRow,
  }),
}
