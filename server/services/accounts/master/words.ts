import { FIELDS, type Field, type Value } from '../../../../core/accounts'
import { toMajor } from '../../../../core/money'
import type { MasterField } from '../../../../contract/accounts/master'

const REFERENCES: Record<string, string> = {
  parent: 'Stands under',
  controller: 'Controller',
  sales: 'Sales contact',
}

/** What a field is called, as a person reads it. */
export const labelOf = (field: MasterField | Field): string =>
  FIELDS[field as Field]?.label ?? REFERENCES[field] ?? field

/** A value in words: amounts in major units with their currency, nothing for none. */
export function asText(field: MasterField | Field, value: Value | undefined, currency: string): string {
  if (value === null || value === undefined || value === '') return ''
  if (FIELDS[field as Field]?.form === 'money') return `${toMajor(Number(value), currency)} ${currency}`
  return String(value)
}
