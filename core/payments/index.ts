import { isSEPACountry, isValidIBAN } from 'ibantools'

/*
 * What refunds and collections share: payments that a bank makes or collects on our word. The rules are those
 * of the SEPA schemes (rulebooks of the EPC, from memory).
 */

/** Whether the SEPA reaches an account. */
export const isReached = (iban: string): boolean =>
  isValidIBAN(iban.replace(/\s/g, '')) && isSEPACountry(iban.slice(0, 2))

/** Letters as numbers, A = 10, for the check of ISO 7064 mod 97-10. */
const digitsOf = (text: string): string => text.replace(/[A-Z]/g, letter => String(letter.charCodeAt(0) - 55))

/**
 * What is wrong with a creditor identifier; empty for nothing. Country, two check digits, three signs of the
 * business code that do not count, the national part; mod 97-10 without the business code (SEPA rulebooks).
 * Example: DE98ZZZ09999999999 is right.
 */
export function creditorIdFault(id: string): string {
  const match = /^([A-Z]{2}\d{2})[A-Z0-9]{3}([A-Z0-9]{1,28})$/.exec(id)
  if (!match)
    return 'it has a country, two digits, three signs and a national part, such as DE98ZZZ09999999999'
  const [, head, national] = match
  let rest = 0
  for (const digit of digitsOf(national! + head!)) rest = (rest * 10 + Number(digit)) % 97
  return rest === 1 ? '' : 'its check digits are wrong'
}

/** Where a file of payments stands. */
export const FILE_STATES = {
  made: 'Made',
  sending: 'On its way to the bank',
  sent: 'With the bank',
  accepted: 'Taken by the bank',
  partly: 'Taken in part',
  rejected: 'Refused by the bank',
  'taken-back': 'Taken back',
} as const
export type FileState = keyof typeof FILE_STATES

/** States in which the bank may still execute a file, or has. */
export const isLive = (state: FileState): boolean => state !== 'rejected' && state !== 'taken-back'

export * from './policy'
export * from './reasons'
export * from './answer'
