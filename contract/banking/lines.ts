import { z } from 'zod'
import { amount, currency, cursor, customerRef, flag, id, limit, minor, search } from '../common'
import { operation } from '../operation'
import { proof } from '../receipts'

const params = z.object({ id })
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

const target = z.object({ kind: z.enum(['means', 'slip', 'reversal']), id })
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
  state: z.enum(['open', 'settled']),
  version: z.int(),
  confidence: z.number(),
  tie: z.boolean(),
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
const rule = z.object({
  id: z.int(),
  iban: z.string(),
  words: z.string(),
  account: z.string(),
  accountName: z.string(),
  moneyIn: z.boolean(),
  by: z.string(),
})
const learnt = z.object({
  id: z.int(),
  iban: z.string(),
  name: z.string(),
  customer: customerRef,
  times: z.int(),
})
const bytes = {
  bodyType: 'application/octet-stream',
  body: z.custom<Uint8Array | Blob>().meta({ type: 'string', format: 'binary' }),
}

export const bank = {
  accounts: operation({
    method: 'get',
    path: '/api/banking/accounts',
    summary: 'Bank accounts, each reconciled: statement, ledger, lines not yet worked',
    ability: 'books.read',
    response: z.object({ items: z.array(bankAccount) }),
  }),
  addAccount: operation({
    method: 'post',
    path: '/api/banking/accounts',
    summary: 'Add a bank account',
    ability: 'policy.edit',
    body: bankAccountBody,
    response: bankAccount,
    status: 201,
  }),
  changeAccount: operation({
    method: 'put',
    path: '/api/banking/accounts/{id}',
    summary: 'Change name or column map of a bank account',
    ability: 'policy.edit',
    params,
    body: bankAccountBody,
    response: bankAccount,
  }),
  take: operation({
    method: 'post',
    path: '/api/banking/statements',
    summary:
      'Take a bank statement in: camt.053 (02 to 08), MT940, OFX or CSV as the body. With `Prefer: respond-async` answers 202 with a job',
    ability: 'receipts.post',
    ...bytes,
    query: z.object({
      name: z.string().max(120).optional().describe('file name'),
      account: z.coerce.number().int().optional().describe('bank account; needed for CSV only'),
      dryRun: flag.describe('1: check only'),
    }),
    response: statementResult,
  }),
  statements: operation({
    method: 'get',
    path: '/api/banking/statements',
    summary: 'Statements, newest first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({
      items: z.array(
        z.object({
          id: z.int(),
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
          by: z.string(),
          at: z.string(),
        }),
      ),
      next: z.string().nullable(),
    }),
  }),
  inbox: operation({
    method: 'get',
    path: '/api/banking/inbox',
    summary: 'Files that the bank left and nobody has taken in',
    ability: 'books.read',
    response: z.object({
      items: z.array(z.object({ name: z.string(), bytes: z.int() })),
      setAside: z
        .array(z.object({ id: z.int(), name: z.string(), reason: z.string(), at: z.string() }))
        .describe('files that could not be taken, and why'),
    }),
  }),
  takeInbox: operation({
    method: 'post',
    path: '/api/banking/inbox/take',
    summary: 'Take in all files of the bank inbox; one that cannot be taken is set aside, the others go on',
    ability: 'receipts.post',
    response: statementResult.extend({
      setAside: z.array(z.object({ name: z.string(), reason: z.string() })),
    }),
  }),
  tryAgain: operation({
    method: 'delete',
    path: '/api/banking/inbox/aside/{id}',
    summary: 'Try a file that was set aside again with the next load',
    ability: 'receipts.post',
    params,
    status: 204,
  }),
  lines: operation({
    method: 'get',
    path: '/api/banking/lines',
    summary: 'Bank lines with proposal, alternatives, confidence and reason',
    ability: 'books.read',
    query: z.object({
      state: z.enum(['open', 'clear', 'unclear', 'settled', 'automatic', 'all']).default('open'),
      account: z.coerce.number().int().optional(),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(bankLine),
      next: z.string().nullable(),
      count: z.int(),
      totals: z.array(z.object({ currency: z.string(), moneyIn: minor, moneyOut: minor, count: z.int() })),
    }),
  }),
  line: operation({
    method: 'get',
    path: '/api/banking/lines/{id}',
    summary:
      'One bank line with proposals made afresh and its history; `customer` asks what it would be for that customer',
    ability: 'books.read',
    params,
    query: z.object({ customer: z.string().max(32).optional() }),
    response: bankLineDetail,
  }),
  preview: operation({
    method: 'post',
    path: '/api/banking/lines/{id}/preview',
    summary: 'Proof of what accepting would post; posts nothing',
    ability: 'receipts.post',
    params,
    body: acceptBody,
    response: proof,
  }),
  accept: operation({
    method: 'post',
    path: '/api/banking/lines/{id}/accept',
    summary: 'Accept a proposal, or say what the line is instead',
    ability: 'receipts.post',
    params,
    body: acceptBody,
    response: bankLineDetail,
  }),
  acceptClear: operation({
    method: 'post',
    path: '/api/banking/lines/accept-clear',
    summary: 'Take every clear line at once',
    ability: 'receipts.post',
    response: z.object({ applied: z.int(), held: z.int() }),
  }),
  undo: operation({
    method: 'post',
    path: '/api/banking/lines/{id}/undo',
    summary: 'Unmatch a line: what it posted is taken back, the line is open again',
    ability: 'receipts.correct',
    params,
    body: z.object({ version: z.int(), reason: z.string().trim().min(1, { error: 'say why' }).max(200) }),
    response: bankLineDetail,
  }),
  previewUndo: operation({
    method: 'post',
    path: '/api/banking/lines/{id}/undo/preview',
    summary: 'Proof of unmatching; posts nothing',
    ability: 'receipts.correct',
    params,
    body: z.object({ reason: z.string().trim().min(1).max(200) }),
    response: proof,
  }),
  covered: operation({
    method: 'get',
    path: '/api/banking/covered',
    summary: 'Posted and awaited from the bank: transfers, cards, slips, reversals',
    ability: 'books.read',
    query: z.object({ currency: z.string().length(3).optional(), search }),
    response: z.object({
      items: z.array(
        z.object({
          kind: z.enum(['means', 'slip', 'reversal']),
          id: z.int(),
          label: z.string(),
          date: z.string(),
          currency: z.string(),
          amount: minor,
          customer: customerRef.nullable(),
          receiptId: z.int().nullable(),
        }),
      ),
      totals: z.array(z.object({ currency: z.string(), amount: minor, count: z.int() })),
    }),
  }),
  rules: operation({
    method: 'get',
    path: '/api/banking/rules',
    summary: 'What was learnt: payers, and money that goes to a ledger account',
    ability: 'books.read',
    response: z.object({ rules: z.array(rule), payers: z.array(learnt) }),
  }),
  addRule: operation({
    method: 'post',
    path: '/api/banking/rules',
    summary: 'Lines with these words, or of this bank account, go to a ledger account',
    ability: 'policy.edit',
    body: z.object({
      iban: z.string().max(34).default(''),
      words: z.string().trim().max(120).default(''),
      account: z.string().min(1).max(16),
      moneyIn: z.boolean(),
    }),
    response: z.object({ rules: z.array(rule), payers: z.array(learnt) }),
    status: 201,
  }),
  dropRule: operation({
    method: 'delete',
    path: '/api/banking/rules/{id}',
    summary: 'Forget a rule',
    ability: 'policy.edit',
    params,
    status: 204,
  }),
  dropPayer: operation({
    method: 'delete',
    path: '/api/banking/payers/{id}',
    summary: 'Forget who paid',
    ability: 'policy.edit',
    params,
    status: 204,
  }),
  csvMap: operation({
    method: 'post',
    path: '/api/banking/csv-map',
    summary: 'A first idea of the column map of a CSV',
    ability: 'receipts.post',
    ...bytes,
    response: z.object({
      header: z.array(z.string()),
      map: columnMap,
      sample: z.array(z.record(z.string(), z.string())),
    }),
  }),
}
