import { z } from 'zod'
import { cursor, id, isoDate, limit, minor, search } from '../common'
import { operation } from '../operation'
import { proof } from '../receipts/forms'
import { percent, policy, policyCode, policyTerms } from './policy'
import { edit, leftOut, leftOutRule, noticeKey, run, runKind, runNotice, runRow, runScope } from './run'

export * from './policy'
export * from './run'

const params = z.object({ id })

export const reminders = {
  policies: operation({
    method: 'get',
    path: '/api/reminders/policies',
    summary: 'Reminder policies as they hold today, with versions to come',
    ability: 'read',
    response: z.object({
      items: z.array(policy),
      coming: z.array(z.object({ code: z.string(), validFrom: z.string(), by: z.string() })),
    }),
  }),
  changePolicy: operation({
    method: 'put',
    path: '/api/reminders/policies/{code}',
    summary: 'Change a policy from a day on, or make a new one; runs of before stay explained by theirs',
    ability: 'policy.edit',
    params: z.object({ code: policyCode }),
    body: policyTerms.extend({
      name: policy.shape.name,
      version: z.int().describe('0: a new policy'),
      validFrom: isoDate.optional().describe('today when left out'),
    }),
    response: policy,
  }),
  rates: operation({
    method: 'get',
    path: '/api/reminders/rates',
    summary: 'Reference rates of late interest, the newest first',
    ability: 'read',
    response: z.object({
      items: z.array(
        z.object({ code: z.string(), from: z.string(), percent: z.string(), source: z.string() }),
      ),
    }),
  }),
  setRate: operation({
    method: 'put',
    path: '/api/reminders/rates',
    summary: 'Enter a reference rate from a day on',
    ability: 'policy.edit',
    body: z.object({
      code: z.string().trim().min(1).max(12),
      from: isoDate,
      percent,
      source: z.string().trim().max(80).default(''),
    }),
    response: z.object({ code: z.string(), from: z.string(), percent: z.string() }),
  }),
  runs: operation({
    method: 'get',
    path: '/api/reminders/runs',
    summary: 'Reminder runs, newest first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({ items: z.array(runRow), next: z.string().nullable() }),
  }),
  propose: operation({
    method: 'post',
    path: '/api/reminders/runs',
    summary: 'Propose a run: what would be sent, and why the rest is left out. Large ones are a job',
    ability: 'reminders.run',
    body: runScope.extend({
      asOf: isoDate,
      kind: runKind.default('reminder'),
      policy: z.string().max(24).default('').describe('empty: each customer by its own'),
    }),
    response: run,
    status: 201,
  }),
  run: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}',
    summary: 'One run with its totals',
    ability: 'books.read',
    params,
    response: run,
  }),
  notices: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/notices',
    summary: 'Notices of a run, by customer',
    ability: 'books.read',
    params,
    query: z.object({ search, level: z.coerce.number().int().min(0).max(9).optional(), limit, cursor }),
    response: z.object({ items: z.array(runNotice), next: z.string().nullable() }),
  }),
  leftOut: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/left-out',
    summary: 'What a run leaves out, and why',
    ability: 'books.read',
    params,
    query: z.object({ search, rule: leftOutRule.optional(), limit, cursor }),
    response: z.object({
      items: z.array(leftOut),
      rules: z.array(z.object({ rule: leftOutRule, lines: z.int(), base: minor })),
      next: z.string().nullable(),
    }),
  }),
  edit: operation({
    method: 'put',
    path: '/api/reminders/runs/{id}/edits',
    summary: 'Change a proposed notice: leave out, one level lower, no fee, no interest, other address',
    ability: 'reminders.run',
    params,
    body: z.object({ version: z.int(), key: noticeKey, edit }),
    response: z.object({ run, notice: runNotice }),
  }),
  proof: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/proof',
    summary: 'What confirming the run would post',
    ability: 'reminders.run',
    params,
    response: proof,
  }),
  confirm: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/confirm',
    summary: 'Confirm a run: letters, e-mails, fees, interest. Twice does it once',
    ability: 'reminders.run',
    params,
    body: z.object({ version: z.int() }),
    response: run,
  }),
  discard: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/discard',
    summary: 'Discard a proposal',
    ability: 'reminders.run',
    params,
    response: run,
  }),
  withdraw: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/withdraw',
    summary: 'Take back a confirmed run, whole or some notices: fees and interest reversed, levels back',
    ability: 'reminders.run',
    params,
    body: z.object({
      keys: z.array(noticeKey).min(1).max(10_000).nullable().default(null).describe('null: the whole run'),
      reason: z.string().trim().min(1, { error: 'say why' }).max(200),
      tell: z.boolean().default(true).describe('write to customers whose notice had gone out'),
    }),
    response: run,
  }),
  withdrawProof: operation({
    method: 'post',
    path: '/api/reminders/runs/{id}/withdraw/proof',
    summary: 'What taking back would post',
    ability: 'reminders.run',
    params,
    body: z.object({
      keys: z.array(noticeKey).min(1).max(10_000).nullable().default(null),
      reason: z.string().max(200).default('-'),
    }),
    response: proof,
  }),
  printFile: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/print',
    summary: 'The letters of a run that go by post, in one file',
    ability: 'books.read',
    params,
    responseType: 'application/pdf',
  }),
  preview: operation({
    method: 'get',
    path: '/api/reminders/runs/{id}/letter',
    summary: 'The letter of a proposed notice, as PDF',
    ability: 'reminders.run',
    params,
    query: z.object({ key: noticeKey }),
    responseType: 'application/pdf',
  }),
  letter: operation({
    method: 'get',
    path: '/api/reminders/notices/{id}/letter',
    summary: 'The letter of a notice, as PDF',
    ability: 'read',
    params,
    responseType: 'application/pdf',
  }),
  goodwill: operation({
    method: 'post',
    path: '/api/reminders/goodwill',
    summary: 'Give up a fee or interest, whole or in part, with a reason; above a threshold it waits',
    ability: 'reminders.run',
    body: z.object({
      itemId: id,
      amount: minor,
      reason: z.string().trim().min(1, { error: 'say why' }).max(200),
    }),
    response: z.object({ waiting: z.int().nullable() }),
  }),
  goodwillProof: operation({
    method: 'post',
    path: '/api/reminders/goodwill/proof',
    summary: 'What giving it up would post',
    ability: 'reminders.run',
    body: z.object({ itemId: id, amount: minor, reason: z.string().max(200).default('-') }),
    response: proof,
  }),
  pause: operation({
    method: 'post',
    path: '/api/reminders/pauses',
    summary: 'Pause reminders of a customer or an item',
    ability: 'reminders.run',
    body: z.object({
      customer: z.string().max(32),
      itemId: id.optional(),
      reason: z.string().trim().min(1, { error: 'say why' }).max(200),
      until: isoDate,
    }),
    response: z.object({ id: z.int() }),
    status: 201,
  }),
  endPause: operation({
    method: 'delete',
    path: '/api/reminders/pauses/{id}',
    summary: 'End a pause',
    ability: 'reminders.run',
    params,
    status: 204,
  }),
}
