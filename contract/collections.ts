import { z } from 'zod'
import {
  COLLECTION_LEFT_OUT,
  COLLECTION_STATES,
  MANDATE_STATES,
  type CollectionRule,
  type CollectionState,
  type MandateState,
} from '../core/collections'
import { RETURN_ACTIONS, type ReturnAction } from '../core/payments'
import { cursor, customerRef, id, isoDate, limit, minor, search } from './common'
import { operation } from './operation'
import { paymentFileRow } from './payments'
import { proof } from './receipts/forms'

const line = (most: number) => z.string().trim().max(most)
const why = line(200).min(1, { error: 'say why' })
const number = z.string().min(1).max(32)
const params = z.object({ id })
const scheme = z.enum(['CORE', 'B2B'])
const use = z.enum(['recurring', 'one-off'])
const mandateState = z.enum(Object.keys(MANDATE_STATES) as [MandateState, ...MandateState[]])
const rule = z.enum(Object.keys(COLLECTION_LEFT_OUT) as [CollectionRule, ...CollectionRule[]])
const state = z.enum(['proposed', ...(Object.keys(COLLECTION_STATES) as CollectionState[])])
const action = z.enum(Object.keys(RETURN_ACTIONS) as [ReturnAction, ...ReturnAction[]])
const iban = z
  .string()
  .trim()
  .toUpperCase()
  .transform(s => s.replace(/\s/g, ''))
  .pipe(z.string().max(34))

export const mandateBody = z.object({
  reference: line(35).default('').describe('the next of our series when left out'),
  scheme: scheme.default('CORE'),
  use: use.default('recurring'),
  signedOn: isoDate,
  iban,
  bic: line(11).toUpperCase().default(''),
  holder: line(120).default('').describe('of the account; the customer when left out'),
  most: z
    .int()
    .positive()
    .nullable()
    .default(null)
    .describe('that one collection may take, euro minor units'),
  noticeDays: z.int().nullable().default(null).describe('of advance notice, as agreed'),
  attachmentId: id.nullable().default(null).describe('the scan, a file on the account'),
})

export const mandate = z.object({
  id: z.int(),
  version: z.int(),
  customer: customerRef,
  reference: z.string(),
  scheme,
  use,
  signedOn: z.string(),
  iban: z.string(),
  bic: z.string(),
  holder: z.string(),
  state: mandateState,
  stateWhy: z.string(),
  lastUsed: z.string().nullable(),
  lapsesOn: z.string(),
  lapsed: z.boolean(),
  lapsesSoon: z.boolean().describe('within three months'),
  next: z.string().describe('how the next collection is told to the bank: FRST, RCUR, OOFF or FNAL'),
  most: minor.nullable(),
  noticeDays: z.int().nullable(),
  endsNext: z.boolean(),
  amended: z.array(z.string()).describe('what is told to the bank with the next collection'),
  scan: z.object({ id: z.int(), name: z.string() }).nullable(),
  collected: z.int().describe('collections so far'),
})
export type MandateRow = z.infer<typeof mandate>

const collectedItem = z.object({
  id: z.int(),
  number: z.string(),
  dueDate: z.string(),
  amount: minor,
  discount: minor,
})
export const collectionRow = z.object({
  id: z.int(),
  number: z.string().nullable(),
  customer: customerRef,
  mandate: z.object({ id: z.int(), reference: z.string(), scheme, iban: z.string() }),
  sequence: z.string(),
  amount: minor,
  collectOn: z.string(),
  why: z.string(),
  state,
  told: z.string().describe('where it stands, in words'),
  items: z.array(collectedItem),
  credits: z.array(z.object({ number: z.string(), item: z.string(), amount: minor })),
  file: z.object({ id: z.int(), number: z.string() }).nullable(),
  notice: z.int().nullable().describe('the letter of its advance notice'),
  receipt: z.object({ id: z.int(), number: z.string() }).nullable(),
  finalAfter: z.string().describe('until then the money may come back without a reason'),
  back: z
    .object({
      code: z.string(),
      label: z.string(),
      on: z.string(),
      action,
      done: z.union([action, z.literal('')]),
      again: z.int().describe('how often it was presented before'),
    })
    .nullable(),
})
export type CollectionRow = z.infer<typeof collectionRow>

export const collectionRun = z.object({
  id: z.int(),
  version: z.int(),
  collectOn: z.string(),
  dueBy: z.string(),
  madeOn: z.string(),
  scheme: z.union([scheme, z.literal('')]),
  again: z.boolean(),
  account: z.string(),
  state: z.enum(['proposed', 'confirmed', 'discarded']),
  job: z.int().nullable().describe('at work on it, while a large one is being confirmed'),
  sendBy: z.string().describe('the last day on which its files may go to the bank'),
  by: z.string(),
  confirmedBy: z.string().nullable(),
  totals: z.object({
    collections: z.int(),
    amount: minor,
    discount: minor,
    credits: minor,
    leftOut: minor,
    leftOutLines: z.int(),
    byState: z.array(z.object({ state, count: z.int(), amount: minor })),
    bySequence: z.array(z.object({ scheme, sequence: z.string(), count: z.int(), amount: minor })),
  }),
  files: z.array(paymentFileRow),
})
export type CollectionRun = z.infer<typeof collectionRun>

export const collectionLeftOut = z.object({
  customer: customerRef,
  item: z.string().nullable(),
  amount: minor,
  rule,
  reason: z.string(),
})
export type CollectionLeftOutRow = z.infer<typeof collectionLeftOut>

const edit = z.object({
  version: z.int(),
  customer: number,
  leaveOut: line(200).nullable().default(null).describe('why; null: it is in again'),
  items: z.record(z.string(), line(200)).default({}).describe('why single items are left out, by id'),
})

/** Mandates: what allows us to collect. */
export const mandates = {
  list: operation({
    method: 'get',
    path: '/api/mandates',
    summary: 'Mandates, those that lapse soonest first',
    ability: 'read',
    query: z.object({
      customer: number.optional(),
      only: z.enum(['all', 'active', 'lapsing', 'stopped']).default('active'),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(mandate),
      count: z.int(),
      lapsing: z.int(),
      next: z.string().nullable(),
    }),
  }),
  add: operation({
    method: 'post',
    path: '/api/mandates',
    summary: 'Enter a mandate that a customer signed',
    ability: 'mandates.keep',
    body: mandateBody.extend({ customer: number }),
    response: mandate,
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/mandates/{id}',
    summary: 'Amend a mandate: reference and account are told to the bank with the next collection',
    ability: 'mandates.keep',
    params,
    body: mandateBody.extend({ version: z.int(), endsNext: z.boolean().default(false) }),
    response: mandate,
  }),
  setState: operation({
    method: 'post',
    path: '/api/mandates/{id}/state',
    summary: 'Suspend a mandate, let it go on, or cancel it for good',
    ability: 'mandates.keep',
    params,
    body: z.object({ version: z.int(), state: z.enum(['active', 'suspended', 'cancelled']), reason: why }),
    response: mandate,
  }),
  import: operation({
    method: 'post',
    path: '/api/mandates/import',
    summary: 'Take mandates in from a CSV: all of them or none',
    ability: 'mandates.keep',
    bodyType: 'text/csv',
    body: z.string().min(1, { error: 'the file is empty' }),
    response: z.object({ imported: z.int() }),
  }),
}

/** Collections by direct debit. */
export const collections = {
  runs: operation({
    method: 'get',
    path: '/api/collections/runs',
    summary: 'Collections, the newest first',
    ability: 'books.read',
    query: z.object({ limit, cursor }),
    response: z.object({
      items: z.array(
        collectionRun.omit({ totals: true, files: true }).extend({ collections: z.int(), amount: minor }),
      ),
      next: z.string().nullable(),
    }),
  }),
  propose: operation({
    method: 'post',
    path: '/api/collections/runs',
    summary: 'Propose what is collected on a day, with a reason for all that is not',
    ability: 'collections.run',
    body: z.object({
      collectOn: isoDate,
      dueBy: isoDate.optional().describe('items due by then; the day of collection when left out'),
      scheme: scheme.optional(),
    }),
    response: collectionRun,
    status: 201,
  }),
  run: operation({
    method: 'get',
    path: '/api/collections/runs/{id}',
    summary: 'A collection with its totals and files',
    ability: 'books.read',
    params,
    response: collectionRun,
  }),
  rows: operation({
    method: 'get',
    path: '/api/collections/runs/{id}/rows',
    summary: 'What is collected of each customer',
    ability: 'books.read',
    params,
    query: z.object({ search, limit, cursor }),
    response: z.object({ items: z.array(collectionRow), next: z.string().nullable() }),
  }),
  leftOut: operation({
    method: 'get',
    path: '/api/collections/runs/{id}/left-out',
    summary: 'What is due and not collected, with the reason',
    ability: 'books.read',
    params,
    query: z.object({ search, limit, cursor }),
    response: z.object({ items: z.array(collectionLeftOut), next: z.string().nullable() }),
  }),
  edit: operation({
    method: 'put',
    path: '/api/collections/runs/{id}',
    summary: 'Leave a customer or single items out, or take them in again',
    ability: 'collections.run',
    params,
    body: edit,
    response: collectionRun,
  }),
  proof: operation({
    method: 'post',
    path: '/api/collections/runs/{id}/proof',
    summary: 'What will be posted on the day of collection',
    ability: 'collections.run',
    params,
    response: proof,
  }),
  confirm: operation({
    method: 'post',
    path: '/api/collections/runs/{id}/confirm',
    summary: 'Announce it to the customers: from then on its items are on their way. Large ones are a job',
    ability: 'collections.run',
    params,
    body: z.object({ version: z.int() }),
    response: collectionRun,
  }),
  discard: operation({
    method: 'post',
    path: '/api/collections/runs/{id}/discard',
    summary: 'Discard a proposal, or drop all that was announced and not sent yet',
    ability: 'collections.run',
    params,
    body: z.object({ version: z.int(), reason: why }),
    response: collectionRun,
  }),
  files: operation({
    method: 'post',
    path: '/api/collections/runs/{id}/files',
    summary: 'Make its files (pain.008), a file for each scheme; what moved on since is dropped and told',
    ability: 'payments.send',
    params,
    response: z.object({ run: collectionRun, dropped: z.array(z.string()) }),
  }),
  list: operation({
    method: 'get',
    path: '/api/collections',
    summary: 'Collections of customers: all, on their way, or come back and not worked yet',
    ability: 'books.read',
    query: z.object({
      only: z.enum(['all', 'on-its-way', 'back', 'not-final']).default('all'),
      customer: number.optional(),
      search,
      limit,
      cursor,
    }),
    response: z.object({
      items: z.array(collectionRow),
      totals: z.object({ count: z.int(), amount: minor }),
      next: z.string().nullable(),
    }),
  }),
  drop: operation({
    method: 'post',
    path: '/api/collections/{id}/drop',
    summary: 'Take one collection out before it is sent',
    ability: 'collections.run',
    params,
    body: z.object({ reason: why }),
    response: collectionRow,
  }),
  return: operation({
    method: 'post',
    path: '/api/collections/{id}/return',
    summary: 'A collection came back: its receipt is reversed and its items are open again',
    ability: 'collections.run',
    params,
    body: z.object({
      code: z.string().regex(/^[A-Z0-9]{4}$/, { error: 'a code of ISO 20022, such as AM04' }),
      on: isoDate.optional().describe('today when left out'),
      fee: z.int().min(0).max(10_000_000).optional().describe('charged on; that of Setup when left out'),
    }),
    response: collectionRow,
  }),
  returnProof: operation({
    method: 'post',
    path: '/api/collections/{id}/return/proof',
    summary: 'What the return would post',
    ability: 'collections.run',
    params,
    body: z.object({
      code: z.string().regex(/^[A-Z0-9]{4}$/),
      on: isoDate.optional(),
      fee: z.int().min(0).max(10_000_000).optional(),
    }),
    response: proof,
  }),
  work: operation({
    method: 'post',
    path: '/api/collections/{id}/work',
    summary: 'What is done about a collection that came back',
    ability: 'collections.run',
    params,
    body: z.object({ action }),
    response: z.object({ collection: collectionRow, run: z.int().nullable() }),
  }),
  post: operation({
    method: 'post',
    path: '/api/collections/collect',
    summary: 'Post what the bank collects by today; it also happens by itself',
    ability: 'collections.run',
    response: z.object({ collected: z.int(), amount: minor }),
  }),
}
