/**
 * The text of a QR code by which a credit transfer in euro is filled in: EPC069-12, version 002 (from
 * memory). Lines are: service tag, version, character set (1: UTF-8), identification, BIC, name, IBAN,
 * amount, purpose, structured reference, unstructured text. To be drawn with error correction M.
 */
export interface EpcTransfer {
  /** At most 70 characters. */
  name: string
  iban: string
  bic?: string
  /** Cents; 0.01 to 999,999,999.99 euro. */
  amount: number
  /** Creditor reference, ISO 11649; excludes text. */
  reference?: string
  /** At most 140 characters. */
  text?: string
}

const MOST_BYTES = 331
const MOST_CENTS = 99_999_999_999

/** Throws RangeError when a field does not fit the standard. */
export function epcPayload({ name, iban, bic = '', amount, reference = '', text = '' }: EpcTransfer): string {
  if (!Number.isSafeInteger(amount) || amount < 1 || amount > MOST_CENTS)
    throw new RangeError(`${amount} cents are not between 0.01 and 999,999,999.99 euro`)
  if (reference && text) throw new RangeError('a transfer has a reference or a text, not both')
  if (!name || [...name].length > 70) throw new RangeError('the name has 1 to 70 characters')
  if ([...text].length > 140) throw new RangeError('the text has at most 140 characters')
  const lines = [
    'BCD',
    '002',
    '1',
    'SCT',
    bic.replace(/\s/g, ''),
    name,
    iban.replace(/\s/g, ''),
    `EUR${Math.floor(amount / 100)}.${String(amount % 100).padStart(2, '0')}`,
    '',
    reference,
    text,
  ]
  // Elements at the end that are empty are left out.
  while (lines.at(-1) === '') lines.pop()
  const payload = lines.join('\n')
  if (new TextEncoder().encode(payload).length > MOST_BYTES)
    throw new RangeError(`the code would hold more than ${MOST_BYTES} bytes`)
  return payload
}
