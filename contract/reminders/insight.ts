import { z } from 'zod'
import { customerRef, isoDate, minor } from '../common'
import { policyCode, policyTerms } from './policy'

/** A changed policy on days of the past. */
export const dryRunAsk = z.object({
  code: policyCode.describe('whose customers'),
  policy: policyTerms,
  from: isoDate,
  until: isoDate,
  every: z.int().min(1).max(31).default(7).describe('days'),
})

const sums = z.object({ notices: z.int(), overdue: minor, fee: minor, interest: minor })
export const dryRunAnswer = z.object({
  base: z.string(),
  customers: z.int(),
  letters: z.int(),
  days: z.array(
    sums.extend({
      on: z.string(),
      byLevel: z.array(z.int()),
      sent: sums.describe('what was really sent from this day to the next'),
    }),
  ),
  notices: z
    .array(
      z.object({
        on: z.string(),
        customer: customerRef,
        currency: z.string(),
        level: z.int(),
        total: minor,
        fee: minor,
        interest: minor,
      }),
    )
    .describe('the newest'),
})
export type DryRunAnswer = z.infer<typeof dryRunAnswer>

export const workedAnswer = z.object({
  base: z.string(),
  since: z.string(),
  until: z.string(),
  every: z.int().describe('1: all customers; else every so many-th'),
  items: z.array(
    z.object({
      policy: z.string(),
      level: z.int(),
      notices: z.int().describe('items reminded'),
      claimed: minor,
      collected: z.array(minor).describe('within 7, 14 and 30 days'),
      share: z.array(z.number().nullable()),
      alone: z.object({ count: z.int(), share: z.array(z.number().nullable()) }),
    }),
  ),
})
export type WorkedAnswer = z.infer<typeof workedAnswer>

/** What the law of the debtor's country gives for late payment. */
export const claimBody = z.object({
  itemIds: z.array(z.int().positive()).min(1, { error: 'choose what is claimed' }).max(500),
  interest: z.boolean().default(true),
  compensation: z.boolean().default(true),
  letter: z.boolean().default(true).describe('write to the customer'),
})
export const claimsAnswer = z.object({
  country: z.string(),
  asOf: z.string(),
  law: z.string(),
  source: z.string(),
  currency: z.string().describe('of the compensation'),
  trouble: z.string().describe('why nothing may be claimed; empty when something may'),
  items: z.array(
    z.object({
      itemId: z.int(),
      number: z.string(),
      daysLate: z.int(),
      open: minor,
      currency: z.string(),
      interestAmount: minor,
      interest: z.array(
        z.object({
          from: z.string(),
          to: z.string(),
          days: z.int(),
          rate: z.string(),
          base: minor,
          amount: minor,
        }),
      ),
      compensation: minor,
    }),
  ),
})
export type ClaimsAnswer = z.infer<typeof claimsAnswer>
