import { z } from 'zod'
import { amount, currency, customerRef, id, minor } from '../common'

export const params = z.object({ id })
export const columnMap = z.object({
  date: z.string().max(60),
  valueDate: z.string().max(60).optional(),
  amount: z.string().max(60).optional(),
  moneyIn: z.string().max(60).optional(),
  moneyOut: z.string().max(60).optional(),
  text: z.array(z.string().max(60)).max(6),
  name: z.string().max(60).optional(),
  iban: z.string().max(60).optional(),
  reference: z.string().max(60).optional(),
  balance: z.string().max(60).optional(),
  order: z.enum(['YMD', 'DMY', 'MDY']),
  decimal: z.enum(['.', ',']),
})
export const bankAccountBody = z.object({
  name: z.string().trim().min(1, { error: 'give the account a name' }).max(80),
  iban: z.string().trim().min(4, { error: 'write its IBAN or number' }).max(34),
  currency,
  account: z
    .string()
    .trim()
    .regex(/^[0-9A-Za-z.-]{1,16}$/, { error: 'write the number of its ledger account' })
    .describe('ledger account; made when it is not in the chart'),
  csvMap: columnMap.nullable().default(null),
  version: z.int().optional(),
})
export const bankAccount = z.object({
  id: z.int(),
  name: z.string(),
  iban: z.string(),
  currency: z.string(),
  account: z.string(),
  csvMap: columnMap.nullable(),
  version: z.int(),
  lastStatement: z.object({ number: z.string(), to: z.string(), closing: minor.nullable() }).nullable(),
  opening: minor.describe('opening balance of the first statement'),
  ledger: minor.describe('balance of the ledger account'),
  openLines: z.int(),
  openSum: minor.describe('lines not yet worked'),
  settledSum: minor,
  difference: minor.describe('statement less ledger less open lines; zero when the books agree'),
  covered: minor.describe('posted and awaited from the bank, in clearing'),
})
export type BankAccount = z.infer<typeof bankAccount>

const target = z.object({ kind: z.enum(['means', 'slip', 'reversal', 'refund']), id })
const allocation = z.object({
  itemId: id,
  amount,
  discount: z.int().min(0).default(0),
  difference: z.int().min(0).default(0),
  paid: amount.optional().describe('in the currency of the line, when the item is in another'),
})
export const lineAction = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('receipt'),
    lateDiscount: z.boolean().default(false),
    parts: z
      .array(
        z.object({
          customer: z.string().min(1).max(32),
          allocations: z.array(allocation).max(2000).default([]),
          credits: z
            .array(z.object({ creditItemId: id, debitItemId: id, amount }))
            .max(500)
            .default([]),
          onAccount: z.int().min(0).default(0),
        }),
      )
      .min(1)
      .max(200),
  }),
  z.object({
    kind: z.literal('covered'),
    targets: z.array(target).min(1).max(500),
    restAccount: z
      .string()
      .max(16)
      .nullable()
      .default(null)
      .describe("where a difference goes, such as the bank's commission"),
  }),
  z.object({
    kind: z.literal('ledger'),
    account: z.string().min(1).max(16),
    words: z.string().max(120).default('').describe('remember: lines with these words go to this account'),
    rememberPayer: z.boolean().default(false),
  }),
  z.object({
    kind: z.literal('return'),
    itemId: id,
    reason: z.string().trim().min(1).max(200),
    fee: z.int().min(0).default(0).describe('bank fee charged on to the customer'),
    charge: z.int().min(0).default(0).describe('what the bank kept for itself within the line'),
  }),
])
export type LineAction = z.input<typeof lineAction>

export const lineProposal = z.object({
  action: lineAction,
  confidence: z.number(),
  reasons: z.array(z.string()),
  told: z.string().describe('what it is, in a line'),
  customer: customerRef.nullable(),
})
export type LineProposal = z.infer<typeof lineProposal>
const told = z.object({ amount: z.string(), currency: z.string() })
export const lineDetails = z.object({
  ultimate: z.string().optional(),
  charges: z.array(told).optional().describe('kept back by banks on the way'),
  instructed: told.optional().describe('what the payer ordered, in the payer’s currency'),
  rate: z.string().optional().describe('exchange rate of the bank'),
  remittance: z
    .array(
      z.object({
        number: z.string(),
        credit: z.boolean(),
        paid: minor,
        discount: minor,
        adjusted: minor,
        due: minor.nullable(),
        reason: z.string(),
      }),
    )
    .optional()
    .describe('what the payer says is paid, document by document'),
})
export const bankLine = z.object({
  id: z.int(),
  bankAccount: z.object({ id: z.int(), name: z.string() }),
  statement: z.string(),
  bookingDate: z.string(),
  valueDate: z.string(),
  currency: z.string(),
  amount: minor,
  name: z.string(),
  iban: z.string(),
  text: z.string(),
  reference: z.string(),
  endToEndId: z.string(),
  bankReference: z.string(),
  code: z.string(),
  returnReason: z.string(),
  ultimate: z.string().describe('on whose behalf was paid, where the bank tells'),
  details: lineDetails.nullable().describe('what more the bank tells'),
  state: z.enum(['open', 'settled']),
  version: z.int(),
  confidence: z.number(),
  tie: z.boolean(),
  asks: z.boolean().describe('a person decides, however sure it is what happened'),
  clear: z.boolean().describe('sure enough to be taken without a look'),
  held: z.string().describe('why a clear one was not taken'),
  proposal: lineProposal.nullable(),
  alternatives: z.array(lineProposal),
  match: z
    .object({
      kind: z.string(),
      told: z.string(),
      automatic: z.boolean(),
      by: z.string(),
      at: z.string(),
      entry: z.int(),
      receipts: z.array(z.object({ id: z.int(), number: z.string(), customer: customerRef })),
    })
    .nullable(),
})
export type BankLine = z.infer<typeof bankLine>
export const bankLineDetail = bankLine.extend({
  history: z.array(
    z.object({
      told: z.string(),
      by: z.string(),
      at: z.string(),
      entry: z.int(),
      undone: z.object({ by: z.string(), at: z.string(), reason: z.string(), entry: z.int() }).nullable(),
    }),
  ),
})
export type BankLineDetail = z.infer<typeof bankLineDetail>

export const statementResult = z.object({
  statements: z.array(
    z.object({
      account: z.string(),
      number: z.string(),
      format: z.string(),
      from: z.string(),
      to: z.string(),
      currency: z.string(),
      opening: minor.nullable(),
      closing: minor.nullable(),
      fresh: z.int(),
      known: z.int(),
    }),
  ),
  fresh: z.int().describe('lines that are new'),
  known: z.int().describe('lines that were there already'),
  applied: z.int().describe('taken automatically'),
  left: z.int().describe('waiting for a person'),
  warnings: z.array(z.string()),
})
export type StatementResult = z.infer<typeof statementResult>
export const acceptBody = z.object({
  version: z.int().describe('of the line, as it was read'),
  action: lineAction.describe('what it is: that of a proposal, or another'),
  proposed: z
    .boolean()
    .default(false)
    .describe('the action is that of a proposal as it was shown: refused when it is no longer proposed'),
  learn: z.boolean().default(true).describe('remember who paid'),
})
export type AcceptBody = z.input<typeof acceptBody>
export const rule = z.object({
  id: z.int(),
  iban: z.string(),
  words: z.string(),
  account: z.string(),
  accountName: z.string(),
  moneyIn: z.boolean(),
  by: z.string(),
})
export const learnt = z.object({
  id: z.int(),
  iban: z.string(),
  name: z.string(),
  customer: customerRef,
  times: z.int(),
})
