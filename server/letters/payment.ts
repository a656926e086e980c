import { creditorReference } from '../../core/banking/matching'
import { epcPayload } from '../../formats/epcQr'
import type { House } from '../db/settings'

/** The creditor reference (ISO 11649) of a number; empty where it is too long for one. */
export function referenceOf(number: string): string {
  try {
    return creditorReference(number)
  } catch (error) {
    if (error instanceof RangeError) return ''
    throw error
  }
}

/**
 * The code by which a phone fills in the transfer (EPC069-12); only for euro, and where our account is told.
 * `text` is what the transfer says when there is no reference.
 */
export function paymentCode(
  from: { company: string; house?: House },
  {
    currency,
    amount,
    reference,
    text,
  }: { currency: string; amount: number; reference: string; text: string },
): string {
  const iban = from.house?.iban
  if (currency !== 'EUR' || !iban || amount <= 0) return ''
  return epcPayload({
    name: from.company.slice(0, 70),
    iban,
    bic: from.house!.bic,
    amount,
    ...(reference ? { reference } : { text: text.slice(0, 140) }),
  })
}
