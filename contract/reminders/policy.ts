import { z } from 'zod'
import { CONVENTION_CODES, isPercent } from '../../core/interest'
import { LETTER_CUTS, type LetterCut } from '../../core/reminders'
import { currency } from '../common'

const byCurrency = z.record(currency, z.int().min(0).max(1_000_000_00))
export const percent = z.string().refine(isPercent, { error: 'write percent as 8 or 8.15' })
export const country = z.string().regex(/^[A-Z]{2}$/, { error: 'two capital letters, such as IE' })
const text = z.object({
  subject: z.string().trim().min(1).max(160),
  body: z.string().trim().min(1).max(6000),
})
export const level = z.object({
  days: z
    .int()
    .min(1, { error: 'at least 1 day late' })
    .max(999)
    .describe('days late from which the level is due'),
  sincePrevious: z.int().min(0).max(365).describe('days since the notice before'),
  minimum: byCurrency.describe('least overdue amount of a notice, minor units by currency'),
  minimumItem: byCurrency.default({}).describe('items below this cause no notice, minor units by currency'),
  fee: byCurrency.describe('fixed fee, minor units by currency'),
  feeShare: z
    .object({ percent, floor: byCurrency, cap: byCurrency })
    .nullable()
    .default(null)
    .describe('instead of a fixed fee: percent of what is claimed, with floor and cap'),
  interest: z.boolean().default(false).describe('late interest is claimed with it'),
  deadlineDays: z.int().min(1).max(90),
  channel: z.enum(['any', 'email', 'print']).default('any'),
  consequence: z
    .object({ hold: z.boolean(), tellSales: z.boolean(), handOver: z.boolean() })
    .default({ hold: false, tellSales: false, handOver: false }),
  texts: z
    .record(z.string().length(2), text)
    .refine(t => 'en' in t, { error: 'an English text is needed, it serves languages without one' }),
})
const basis = z.enum(['floating', 'locked'])
const policyInterest = z.object({
  convention: z.enum(CONVENTION_CODES),
  percent: percent.describe('a year; with a reference rate the margin above it'),
  reference: z.string().trim().min(1).max(12).nullable(),
  basis: z.object({ otherwise: basis, byCountry: z.record(country, basis) }),
  minimum: byCurrency,
})
/** What a version of a policy says. */
export const policyTerms = z.object({
  letters: z.enum(Object.keys(LETTER_CUTS) as [LetterCut, ...LetterCut[]]).default('account'),
  graceDays: z.int().min(0).max(60).default(0),
  levels: z.array(level).min(1, { error: 'a policy needs a level' }).max(9),
  interest: policyInterest.nullable().default(null),
  feeTax: percent.default('0').describe('percent of tax on top of fees'),
  chargesCause: z.boolean().default(false).describe('fees and interest may cause a notice'),
  chargesBearInterest: z.boolean().default(false),
})
export type PolicyTerms = z.infer<typeof policyTerms>
export const policyCode = z
  .string()
  .trim()
  .min(1)
  .max(24)
  .regex(/^[a-z0-9-]+$/, { error: 'small letters, digits and hyphens' })
export const policy = policyTerms.extend({
  code: z.string().min(1).max(24),
  name: z.string().trim().min(1).max(80),
  validFrom: z.string().describe('from when this version holds'),
  version: z.int(),
})
export type PolicyForm = z.infer<typeof policy>
