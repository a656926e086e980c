import {
  FIELDS,
  METHODS,
  RISK_CLASSES,
  STATEMENT_CYCLES,
  type Field,
  type FieldGroup,
} from '~~/core/accounts'
import type { Master, MasterField } from '~~/contract/accounts/master'

/** The parts of a master as they stand on the screen, with the fields of each. */
export const MASTER_PARTS: readonly { group: FieldGroup; title: string; what: string }[] = [
  { group: 'address', title: 'Who and where', what: 'as it stands on letters' },
  { group: 'terms', title: 'Terms', what: 'what is empty comes from the class' },
  { group: 'credit', title: 'Credit', what: 'a limit that rises waits for a second person' },
  { group: 'bank', title: 'Bank', what: 'changed details are marked until a second person has seen them' },
]

/** A choice of a list: what is kept, and how it reads. */
export interface Choice {
  value: string
  label: string
}

const of = (list: Record<string, string>): Choice[] =>
  Object.entries(list).map(([value, label]) => ({ value, label }))
const named = (list: readonly { code: string; name: string }[]): Choice[] =>
  list.map(({ code, name }) => ({ value: code, label: name }))
const people = (list: readonly { email: string; name: string }[]): Choice[] => [
  { value: '', label: 'nobody' },
  ...list.map(({ email, name }) => ({ value: email, label: name })),
]

/** The choices of a field that has a list of them; null for one that is typed. */
export function choicesOf(field: MasterField, choices: Master['choices']): Choice[] | null {
  switch (field) {
    case 'class':
      return [{ value: '', label: 'none' }, ...named(choices.classes)]
    case 'policy':
      return named(choices.policies)
    case 'method':
      return of(METHODS)
    case 'statementCycle':
      return of(STATEMENT_CYCLES)
    case 'refunds':
      return of({ yes: 'allowed', no: 'not allowed' })
    case 'riskClass':
      return Object.entries(RISK_CLASSES).map(([value, label]) => ({ value, label: `${value}, ${label}` }))
    case 'controller':
      return people(choices.controllers)
    case 'sales':
      return people(choices.sales)
    default:
      return null
  }
}

/** How much room a typed field asks for. */
export function widthOf(field: Field): string {
  const { length = 20, form } = FIELDS[field]
  if (form === 'country' || form === 'language') return 'w-[52px]'
  if (form === 'currency') return 'w-[64px]'
  if (form === 'iban') return 'w-[250px]'
  return length > 80 ? 'w-[270px]' : length > 30 ? 'w-[200px]' : 'w-[130px]'
}
