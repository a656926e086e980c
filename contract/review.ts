import { z } from 'zod'
import { SCORE_PART_NAMES, type ScorePart } from '../core/review'
import { cursor, customerRef, limit, minor, page, search } from './common'
import { operation } from './operation'

const scorePart = z.enum(SCORE_PART_NAMES as [ScorePart, ...ScorePart[]])
const share = z.number().min(0).max(1)

const band = z.object({
  from: share,
  to: share,
  count: z.int(),
  said: share,
  happened: share,
})
const model = z.object({
  asOf: z.string().describe('the last day that it knows'),
  observations: z.int(),
  cases: z.int(),
  tested: z
    .object({
      accounts: z.int(),
      happened: z.int(),
      brier: z.number(),
      brierOfBase: z.number().describe('of saying the same of all accounts'),
      base: share,
      bands: z.array(band).describe('what was said against what came'),
    })
    .nullable()
    .describe('what it would have said of the last year; null while the ledger is too young'),
})
export type ReviewModel = z.infer<typeof model>

const suggestion = z.object({
  riskClass: z.string(),
  limit: minor,
  months: z.int(),
  reasons: z.array(z.string()),
})
const standing = {
  score: z.number().nullable().describe('0 to 100, the higher the better'),
  probability: share.nullable().describe('more than 90 days late within a year'),
  longLate: z.boolean().describe('more than 90 days late now'),
  riskClass: z.string().describe('of the account, or of its class; empty without one'),
  limit: minor.nullable(),
  currency: z.string().describe('of the limit'),
  suggestion: suggestion.nullable(),
  reviewDate: z.string().nullable(),
  due: z.array(z.string()).describe('why it is to be reviewed now, in words'),
}
const reviewRow = z.object({ customer: customerRef, ...standing })
export type ReviewRow = z.infer<typeof reviewRow>

export const reviewAnswer = page(reviewRow).extend({
  base: z.string(),
  today: z.string(),
  due: z.int().describe('accounts to be reviewed now'),
  model: model.nullable().describe('null while it is learnt for the first time'),
})
export type ReviewAnswer = z.infer<typeof reviewAnswer>

export const accountReview = z.object({
  customer: customerRef,
  base: z.string(),
  today: z.string(),
  version: z.int().describe('of the customer: sent back when a suggestion is accepted'),
  ...standing,
  parts: z.array(
    z.object({
      part: scorePart,
      points: z.number().nullable().describe('0 to 100; null when nothing is known'),
      weight: z.number(),
      gives: z.number().describe('what it gives to the score: they add up'),
      said: z.string(),
    }),
  ),
  most: minor.describe('the most that was open in the last year, base currency'),
  model: model.nullable(),
})
export type AccountReview = z.infer<typeof accountReview>

export const reviewQuery = z.object({
  search,
  which: z.enum(['due', 'all']).default('due'),
  limit,
  cursor,
})

export const review = {
  list: operation({
    method: 'get',
    path: '/api/review',
    summary: 'Accounts to be reviewed, the likeliest to be late first',
    ability: 'books.read',
    query: reviewQuery,
    response: reviewAnswer,
  }),
  account: operation({
    method: 'get',
    path: '/api/review/{number}',
    summary: 'Review of an account: behaviour, score with its parts, probability, suggested class and limit',
    ability: 'read',
    params: z.object({ number: z.string().min(1).max(32) }),
    response: accountReview,
  }),
}
