import { z } from 'zod'
import { cursor, id, isoDate, limit, minor, search } from '../common'
import { operation } from '../operation'
import { proof } from '../receipts'

const params = z.object({ id })
export const trayItem = z.object({
  id: z.int(),
  receiptId: z.int(),
  receipt: z.string(),
  customer: z.object({ number: z.string(), name: z.string() }),
  means: z.enum(['cash', 'cheque']),
  reference: z.string(),
  date: z.string(),
  currency: z.string(),
  amount: minor,
})
export type TrayItem = z.infer<typeof trayItem>
export const slipBody = z.object({
  date: isoDate,
  means: z.array(id).min(1, { error: 'choose at least one cheque or some cash' }).max(2000),
  cashKept: z.int().min(0, { error: 'cash kept back cannot be less than zero' }).default(0),
})
export const slipRow = z.object({
  id: z.int(),
  number: z.string(),
  date: z.string(),
  currency: z.string(),
  total: minor,
  cashKept: minor,
  banked: minor,
  count: z.int(),
  voided: z.boolean(),
  by: z.string(),
})
export type SlipRow = z.infer<typeof slipRow>
export const slipDetail = slipRow.extend({
  means: z.array(trayItem),
  entries: z.array(z.int()),
  voidReason: z.string(),
})
export type SlipDetail = z.infer<typeof slipDetail>

export const slips = {
  tray: operation({
    method: 'get',
    path: '/api/banking/tray',
    summary: 'Cheques and cash not yet taken to the bank',
    ability: 'books.read',
    query: z.object({ search, currency: z.string().length(3).optional() }),
    response: z.object({
      items: z.array(trayItem),
      totals: z.array(z.object({ currency: z.string(), cash: minor, cheques: minor, count: z.int() })),
    }),
  }),
  previewSlip: operation({
    method: 'post',
    path: '/api/banking/slips/preview',
    summary: 'Proof of a paying-in slip; posts nothing',
    ability: 'receipts.post',
    body: slipBody,
    response: proof,
  }),
  postSlip: operation({
    method: 'post',
    path: '/api/banking/slips',
    summary: 'Take receipts to the bank on a paying-in slip',
    ability: 'receipts.post',
    body: slipBody,
    response: slipDetail,
    status: 201,
  }),
  slips: operation({
    method: 'get',
    path: '/api/banking/slips',
    summary: 'Paying-in slips, newest first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({ items: z.array(slipRow), next: z.string().nullable() }),
  }),
  slip: operation({
    method: 'get',
    path: '/api/banking/slips/{id}',
    summary: 'One slip with its cheques',
    ability: 'books.read',
    params,
    response: slipDetail,
  }),
  pdf: operation({
    method: 'get',
    path: '/api/banking/slips/{id}/pdf',
    summary: 'The slip as PDF',
    ability: 'books.read',
    params,
    responseType: 'application/pdf',
  }),
  previewVoid: operation({
    method: 'post',
    path: '/api/banking/slips/{id}/void/preview',
    summary: 'Proof of voiding a slip; posts nothing',
    ability: 'receipts.correct',
    params,
    body: z.object({ date: isoDate }),
    response: proof,
  }),
  voidSlip: operation({
    method: 'post',
    path: '/api/banking/slips/{id}/void',
    summary: 'Void a slip: everything on it lies in the tray again',
    ability: 'receipts.correct',
    params,
    body: z.object({ date: isoDate, reason: z.string().trim().min(1, { error: 'say why' }).max(200) }),
    response: slipDetail,
  }),
}
