import { z } from 'zod'
import { amount, currency, customerRef, id, isoDate, minor } from '../common'
import { operation } from '../operation'

const line = (most: number) => z.string().trim().min(1, { error: 'say it' }).max(most)
const params = z.object({ id })

export const handoverRow = z.object({
  id: z.int(),
  customer: customerRef,
  agency: z.string(),
  on: z.string(),
  by: z.string(),
  reason: z.string(),
  amount: minor.describe('open when it was handed over, base currency'),
  open: minor.describe('of it open now, base currency'),
  received: minor.describe('receipts since, base currency'),
  costs: z.array(
    z.object({
      id: z.int(),
      on: z.string(),
      text: z.string(),
      currency: z.string(),
      amount: minor,
      charged: z.string().nullable().describe('number of the debit by which it is charged on'),
    }),
  ),
  ended: z.object({ on: z.string(), why: z.string() }).nullable(),
})
export type HandoverRow = z.infer<typeof handoverRow>

/** Accounts handed over to an agency or lawyer. */
export const handovers = {
  list: operation({
    method: 'get',
    path: '/api/reminders/handovers',
    summary: 'Accounts that were handed over, and those that the last reminder proposes',
    ability: 'books.read',
    response: z.object({
      base: z.string(),
      items: z.array(handoverRow),
      proposed: z.array(
        z.object({
          customer: customerRef,
          level: z.int(),
          noticeNumber: z.string(),
          deadline: z.string(),
          open: minor,
        }),
      ),
    }),
  }),
  handOver: operation({
    method: 'post',
    path: '/api/reminders/handovers',
    summary: 'Hand an account over: it is marked, and not reminded by us any more',
    ability: 'reminders.run',
    body: z.object({ customer: z.string().min(1).max(32), agency: line(120), reason: line(300) }),
    response: handoverRow,
    status: 201,
  }),
  end: operation({
    method: 'post',
    path: '/api/reminders/handovers/{id}/end',
    summary: 'It is over: settled, or taken back',
    ability: 'reminders.run',
    params,
    body: z.object({ why: line(200) }),
    response: handoverRow,
  }),
  cost: operation({
    method: 'post',
    path: '/api/reminders/handovers/{id}/costs',
    summary: 'Record what the agency costs; charged on, it becomes an item of the account',
    ability: 'reminders.run',
    params,
    body: z.object({
      on: isoDate,
      currency,
      amount,
      text: line(200),
      charge: z.boolean().default(false),
    }),
    response: handoverRow,
  }),
  archive: operation({
    method: 'get',
    path: '/api/reminders/handovers/{id}/archive',
    summary: 'All of the account in one archive: account, items, notices, time line, copies',
    ability: 'books.read',
    params,
    responseType: 'application/zip',
  }),
}
