/*
 * The master of a customer: each field once, with its column, its label, and what is special about it.
 * Import, edit, history and export all go by this table.
 */

/** How a value is written and checked. */
export type FieldForm =
  | 'text'
  | 'country'
  | 'language'
  | 'currency'
  | 'terms'
  | 'email'
  | 'iban'
  | 'bic'
  | 'money'
  | 'date'
  | 'method'
  | 'riskClass'
  | 'statementCycle'
  | 'yesNo'

export type FieldGroup = 'address' | 'contact' | 'terms' | 'credit' | 'bank'

export interface FieldRow {
  /** Of the table, and of a file of customers. */
  column: string
  label: string
  form: FieldForm
  group: FieldGroup
  /** Longest text. */
  length?: number
  /** Empty: as the class says. */
  inherits?: true
  required?: true
  /** Set once, when the account is opened. */
  fixed?: true
  /**
   * A change needs a second person: of the limit before it holds, of bank details before money goes there.
   */
  signed?: 'limit' | 'bank'
}

const FIELD_ROWS = {
  name: { column: 'name', label: 'Name', form: 'text', group: 'address', length: 160, required: true },
  class: { column: 'class', label: 'Class', form: 'text', group: 'terms', length: 24 },
  street: { column: 'street', label: 'Street and number', form: 'text', group: 'address', length: 160 },
  postcode: { column: 'postcode', label: 'Postcode', form: 'text', group: 'address', length: 16 },
  city: { column: 'city', label: 'Town', form: 'text', group: 'address', length: 80 },
  country: { column: 'country', label: 'Country', form: 'country', group: 'address', required: true },
  language: { column: 'language', label: 'Language', form: 'language', group: 'address', required: true },
  vatNumber: { column: 'vat_number', label: 'Tax number', form: 'text', group: 'address', length: 20 },
  currency: {
    column: 'currency',
    label: 'Currency',
    form: 'currency',
    group: 'terms',
    required: true,
    fixed: true,
  },
  terms: {
    column: 'terms',
    label: 'Payment terms',
    form: 'terms',
    group: 'terms',
    length: 80,
    inherits: true,
  },
  method: { column: 'method', label: 'Usually pays by', form: 'method', group: 'terms', inherits: true },
  policy: {
    column: 'policy',
    label: 'Reminder policy',
    form: 'text',
    group: 'terms',
    length: 24,
    inherits: true,
  },
  statementCycle: {
    column: 'statement_cycle',
    label: 'Statements',
    form: 'statementCycle',
    group: 'terms',
    inherits: true,
  },
  refunds: { column: 'refunds', label: 'Refunds', form: 'yesNo', group: 'terms', inherits: true },
  creditLimit: {
    column: 'credit_limit',
    label: 'Credit limit',
    form: 'money',
    group: 'credit',
    inherits: true,
    signed: 'limit',
  },
  limitCurrency: {
    column: 'limit_currency',
    label: 'Limit in',
    form: 'currency',
    group: 'credit',
    signed: 'limit',
  },
  limitFrom: { column: 'limit_from', label: 'Limit from', form: 'date', group: 'credit', signed: 'limit' },
  limitUntil: { column: 'limit_until', label: 'Limit until', form: 'date', group: 'credit', signed: 'limit' },
  insuredLimit: {
    column: 'insured_limit',
    label: 'Insured limit',
    form: 'money',
    group: 'credit',
    signed: 'limit',
  },
  insuredUntil: {
    column: 'insured_until',
    label: 'Insured until',
    form: 'date',
    group: 'credit',
    signed: 'limit',
  },
  riskClass: {
    column: 'risk_class',
    label: 'Risk class',
    form: 'riskClass',
    group: 'credit',
    inherits: true,
  },
  reviewDate: { column: 'review_date', label: 'Next review', form: 'date', group: 'credit' },
  contact: { column: 'contact', label: 'Main contact', form: 'text', group: 'contact', length: 120 },
  email: { column: 'email', label: 'E-mail', form: 'email', group: 'contact', length: 190 },
  phone: { column: 'phone', label: 'Telephone', form: 'text', group: 'contact', length: 40 },
  iban: { column: 'iban', label: 'IBAN', form: 'iban', group: 'bank', signed: 'bank' },
  bic: { column: 'bic', label: 'BIC', form: 'bic', group: 'bank', signed: 'bank' },
  bankHolder: {
    column: 'bank_holder',
    label: 'Account holder',
    form: 'text',
    group: 'bank',
    length: 70,
    signed: 'bank',
  },
} satisfies Record<string, FieldRow>

export type Field = keyof typeof FIELD_ROWS
export const FIELDS: Readonly<Record<Field, FieldRow>> = FIELD_ROWS
export const FIELD_NAMES = Object.keys(FIELDS) as Field[]

/** The fields for which something holds, in the order of the table. */
export const fieldsWhere = (holds: (row: FieldRow) => boolean): Field[] =>
  FIELD_NAMES.filter(field => holds(FIELDS[field]))

/** How customers pay as a rule. */
export const METHODS = {
  transfer: 'transfer',
  'direct-debit': 'direct debit',
  cheque: 'cheque',
  card: 'card',
}
export type Method = keyof typeof METHODS

/** Risk classes, the best first: ours. */
export const RISK_CLASSES = { A: 'very low', B: 'low', C: 'medium', D: 'high', E: 'very high' }
export type RiskClass = keyof typeof RISK_CLASSES

/** How often a statement of account goes out. */
export const STATEMENT_CYCLES = { none: 'never', monthly: 'each month', quarterly: 'each quarter' }
export type StatementCycle = keyof typeof STATEMENT_CYCLES
