import countries from 'i18n-iso-countries'
import { isValidBIC, isValidIBAN } from 'ibantools'
import isEmail from 'validator/lib/isEmail.js'
import { isIsoDate, parseTerms } from '../calendar'
import { isCurrency, MAX_AMOUNT } from '../money'
import {
  FIELDS,
  fieldsWhere,
  METHODS,
  RISK_CLASSES,
  STATEMENT_CYCLES,
  type Field,
  type FieldForm,
} from './fields'

/** Values of a master: text as it is kept, money in minor units, null for none. */
export type Value = string | number | null
export type Values = Partial<Record<Field, Value>>

export interface FieldFault {
  field: Field
  message: string
  /** What would be right. */
  satisfy: string
}

/** A line of text: no line breaks, tabs or other signs that would end a line of a letter's header. */
const UNSEEN = /[\u0000-\u001f\u007f\u2028\u2029]/

type Wrong = [message: string, satisfy: string] | null

const oneOf = (value: string, list: object, what: string): Wrong =>
  value in list ? null : [`"${value}" is not ${what}`, `use one of ${Object.keys(list).join(', ')}`]

/** Of each form, what is wrong with a value that is not empty. */
const CHECKS: Readonly<Record<Exclude<FieldForm, 'money' | 'text'>, (value: string) => Wrong>> = {
  country: value =>
    countries.alpha2ToNumeric(value)
      ? null
      : [`"${value}" is not a country`, 'use the two letters of ISO 3166, such as IE'],
  language: value =>
    /^[a-z]{2}$/.test(value)
      ? null
      : [`"${value}" is not a language`, 'use the two letters of ISO 639, such as en'],
  currency: value =>
    isCurrency(value)
      ? null
      : [`"${value}" is not a currency`, 'use the three letters of ISO 4217, such as EUR'],
  terms: value => {
    try {
      parseTerms(value)
      return null
    } catch (error) {
      return [(error as Error).message, 'write them as "net 30" or "2% 10, net 30"']
    }
  },
  email: value =>
    isEmail(value) ? null : [`"${value}" is not an e-mail address`, 'write it as name@company.example'],
  iban: value => (isValidIBAN(value) ? null : [`"${value}" is not a valid IBAN`, 'check its digits']),
  bic: value =>
    isValidBIC(value) ? null : [`"${value}" is not a BIC`, 'a BIC has 8 or 11 signs (ISO 9362)'],
  date: value =>
    isIsoDate(value) ? null : [`"${value}" is not a day`, 'write it as YYYY-MM-DD, a day that exists'],
  method: value => oneOf(value, METHODS, 'a way to pay'),
  riskClass: value => oneOf(value, RISK_CLASSES, 'a risk class'),
  statementCycle: value => oneOf(value, STATEMENT_CYCLES, 'a cycle of statements'),
  yesNo: value => oneOf(value, { yes: 1, no: 1 }, 'yes or no'),
}

function wrongMoney(value: Value): Wrong {
  if (typeof value !== 'number' || !Number.isSafeInteger(value))
    return [`${String(value)} is not an amount`, 'write whole minor units']
  if (value < 0) return ['a limit cannot be less than zero', 'leave it empty for none']
  return value > MAX_AMOUNT ? ['the amount is too large', 'check its digits'] : null
}

/** What is wrong with one value; null when nothing is. */
function wrongIn(field: Field, value: Value): Wrong {
  const { form, length, required, label } = FIELDS[field]
  if (value === null || value === '')
    return required ? [`the ${label.toLowerCase()} is missing`, 'fill it in'] : null
  if (form === 'money') return wrongMoney(value)
  const text = String(value)
  if (UNSEEN.test(text)) return ['has a line break or another sign that is not seen', 'write it on one line']
  if (length !== undefined && text.length > length) return [`longer than ${length} characters`, 'shorten it']
  return form === 'text' ? null : CHECKS[form](text)
}

/** Dates of a limit that cross. */
function crossed(values: Values, from: Field, until: Field): FieldFault[] {
  const [first, last] = [values[from], values[until]]
  if (typeof first !== 'string' || typeof last !== 'string' || !first || !last || first <= last) return []
  return [
    {
      field: until,
      message: `${FIELDS[until].label.toLowerCase()} ${last} lies before ${first}`,
      satisfy: 'let it end after it begins',
    },
  ]
}

/** All that is wrong with a master, field by field; only fields that are there are looked at. */
export function faultsOf(values: Values): FieldFault[] {
  const each = fieldsWhere(() => true).flatMap((field): FieldFault[] => {
    const value = values[field]
    if (value === undefined) return []
    const wrong = wrongIn(field, value)
    return wrong ? [{ field, message: wrong[0], satisfy: wrong[1] }] : []
  })
  if (each.length) return each
  return [...each, ...crossed(values, 'limitFrom', 'limitUntil')]
}

/** A value as it is kept: codes in their case, IBANs without spaces, text without blanks around it. */
export function normal(field: Field, value: Value): Value {
  if (typeof value !== 'string') return value
  const text = value.trim()
  const { form } = FIELDS[field]
  if (form === 'country' || form === 'currency' || form === 'bic') return text.toUpperCase()
  if (form === 'language' || form === 'method' || form === 'yesNo' || form === 'statementCycle')
    return text.toLowerCase()
  if (form === 'riskClass') return text.toUpperCase()
  if (form === 'iban') return text.replace(/\s/g, '').toUpperCase()
  if (form === 'date' || form === 'money') return text || null
  return text
}
