import { z } from 'zod'
import { FIELD_NAMES } from '../../core/accounts'
import { minor, TABLE_TYPES } from '../common'
import { operation } from '../operation'

/** Values are checked by the one table of fields, so that a file and a screen are told the same. */
const text = z.string().max(400)
const optionalDate = z.string().max(10).nullable()
const optionalMoney = z.number().nullable()

export const masterValues = z.object({
  name: text,
  class: text,
  street: text,
  postcode: text,
  city: text,
  country: text,
  language: text,
  vatNumber: text,
  currency: text,
  terms: text.describe('empty: those of the class'),
  method: text,
  policy: text,
  statementCycle: text,
  refunds: text,
  creditLimit: optionalMoney.describe('minor units of limitCurrency; null: that of the class'),
  limitCurrency: text.describe('empty: base currency'),
  limitFrom: optionalDate,
  limitUntil: optionalDate,
  insuredLimit: optionalMoney.describe('minor units of limitCurrency'),
  insuredUntil: optionalDate,
  riskClass: text,
  reviewDate: optionalDate,
  contact: text,
  email: text,
  phone: text,
  iban: text,
  bic: text,
  bankHolder: text,
  parent: text.describe('number of the customer it stands under; empty for none'),
  controller: text.describe('e-mail of who chases it; empty for nobody'),
  sales: text.describe('e-mail of who sells to it; empty for nobody'),
})
export type MasterValues = z.infer<typeof masterValues>
export type MasterField = keyof MasterValues

const line = (most: number) => z.string().trim().max(most)
export const contact = z.object({
  name: line(120).min(1, { error: 'write a name' }),
  job: line(80),
  email: z.union([z.literal(''), z.email({ error: 'write an e-mail address' }).max(190)]),
  phone: line(40),
  money: z.boolean().describe('to ring about money'),
  reminders: z.boolean().describe('gets reminders'),
  statements: z.boolean().describe('gets statements'),
  collections: z.boolean().describe('gets notices of collections'),
})
export type Contact = z.infer<typeof contact>

const historyLine = z.object({
  at: z.string(),
  by: z.string(),
  field: z.string(),
  before: z.string(),
  after: z.string(),
  reason: z.string(),
})
export type HistoryLine = z.infer<typeof historyLine>
const named = z.object({ number: z.string(), name: z.string() })
const choice = z.object({ code: z.string(), name: z.string() })
const person = z.object({ email: z.string(), name: z.string() })

const choices = z
  .object({
    policies: z.array(choice),
    classes: z.array(choice),
    controllers: z.array(person),
    sales: z.array(person),
  })
  .describe('what fields are chosen from')
export const master = z.object({
  number: z.string(),
  version: z.int(),
  base: z.string(),
  values: masterValues,
  inherited: z
    .object({
      terms: z.string(),
      method: z.string(),
      policy: z.string(),
      statementCycle: z.string(),
      refunds: z.string(),
      riskClass: z.string(),
      creditLimit: minor.nullable().describe('base currency'),
    })
    .describe('what the class says, for the fields that are empty'),
  className: z.string(),
  contacts: z.array(contact),
  parent: named.nullable(),
  members: z.array(named).describe('who stands directly under it'),
  bank: z
    .object({ changedBy: z.string(), changedAt: z.string() })
    .nullable()
    .describe('bank details that no second person has seen yet'),
  closedOn: z.string().nullable(),
  mergedInto: z.string().nullable(),
  waiting: z.array(z.object({ id: z.int(), kind: z.string(), by: z.string(), at: z.string() })),
  history: z.array(historyLine),
  choices,
})
export type Master = z.infer<typeof master>

const number = z
  .string()
  .trim()
  .min(1, { error: 'write a number' })
  .max(32, { error: 'at most 32 characters' })
  .regex(/^[\p{L}\p{N}][\p{L}\p{N} ._/-]*$/u, { error: 'use letters, digits and . _ / - only' })
const contacts = z.array(contact).max(40)
export const createBody = z.object({
  number,
  values: masterValues.partial().required({ name: true, country: true }),
  contacts: contacts.default([]),
})
export const changeBody = z.object({
  version: z.int().describe('that was read: somebody else may have changed it since'),
  set: masterValues.partial().describe('the fields that change'),
  contacts: contacts.optional().describe('all of them, when any changes'),
  reason: line(200).default(''),
})
export type ChangeBody = z.infer<typeof changeBody>
const changed = z.object({
  version: z.int(),
  applied: z.array(z.string()).describe('fields that are changed now'),
  waiting: z.int().nullable().describe('of Sign-off, when the limit waits for a second person'),
})

export const MASTER_FIELDS = [...FIELD_NAMES, 'parent', 'controller', 'sales'] as const

const params = z.object({ number: z.string().min(1).max(32) })
const versioned = z.object({ version: z.int(), reason: line(200).default('') })

export const masterOperations = {
  master: operation({
    method: 'get',
    path: '/api/accounts/{number}/master',
    summary: 'The master of a customer, what it inherits, and who changed what',
    ability: 'read',
    params,
    response: master,
  }),
  choices: operation({
    method: 'get',
    path: '/api/accounts/choices',
    summary: 'What the fields of a new customer are chosen from',
    ability: 'customers.edit',
    response: choices,
  }),
  create: operation({
    method: 'post',
    path: '/api/accounts',
    summary: 'Open an account for a new customer',
    ability: 'customers.edit',
    body: createBody,
    response: z.object({ number: z.string(), version: z.int(), waiting: z.int().nullable() }),
    status: 201,
  }),
  change: operation({
    method: 'put',
    path: '/api/accounts/{number}',
    summary: 'Change a customer; a limit may wait for a second person',
    ability: 'customers.edit',
    params,
    body: changeBody,
    response: changed,
  }),
  close: operation({
    method: 'post',
    path: '/api/accounts/{number}/close',
    summary: 'Close an account on which nothing is open, or open it again',
    ability: 'customers.edit',
    params,
    body: versioned.extend({ closed: z.boolean() }),
    response: z.object({ version: z.int(), closedOn: z.string().nullable() }),
  }),
  merge: operation({
    method: 'post',
    path: '/api/accounts/{number}/merge',
    summary: 'Make two records one: items, history and notes go over, the old number still finds it',
    ability: 'signOff.sign',
    params,
    body: z.object({ into: z.string().min(1).max(32), reason: line(200).min(1, { error: 'say why' }) }),
    response: z.object({ number: z.string(), items: z.int() }),
  }),
  export: operation({
    method: 'get',
    path: '/api/accounts/export',
    summary: 'Customers in the columns of the import, as CSV or XLSX',
    ability: 'read',
    query: z.object({
      search: z.string().max(100).optional(),
      format: z.enum(['csv', 'xlsx']).default('csv'),
    }),
    responseType: TABLE_TYPES,
  }),
}
