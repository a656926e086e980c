import currencyCodes from 'currency-codes'

/** An integer count of minor units (cents, yen, fils) with its ISO 4217 currency. */
export interface Money {
  amount: number
  currency: string
}

/** All of it, in basis points. */
export const WHOLE = 10_000

/** The largest amount one document may carry, in minor units: keeps every sum of a ledger inside 64 bits. */
export const MAX_AMOUNT = 1_000_000_000_000

const digitsByCode = new Map<string, number>(
  currencyCodes.data
    .filter(c => /^[A-Z]{3}$/.test(c.code) && !c.code.startsWith('X'))
    .map(c => [c.code, c.digits]),
)

export function isCurrency(code: string): boolean {
  return digitsByCode.has(code)
}

/** Minor digits of a currency by ISO 4217 (JPY 0, EUR 2, KWD 3). Throws RangeError for an unknown code. */
export function minorDigits(currency: string): number {
  const digits = digitsByCode.get(currency)
  if (digits === undefined) throw new RangeError(`${currency} is not an ISO 4217 currency`)
  return digits
}

/** a / b rounded half away from zero; b > 0. */
export function divideRounded(a: bigint, b: bigint): bigint {
  const negative = a < 0n
  const n = negative ? -a : a
  const q = (2n * n + b) / (2n * b)
  return negative ? -q : q
}

function toSafe(value: bigint): number {
  const n = Number(value)
  if (!Number.isSafeInteger(n))
    throw new RangeError(`${value} minor units is beyond what can be kept exactly`)
  return n
}

/** amount × numerator / denominator, rounded half away from zero at the minor unit. */
export function share(amount: number, numerator: number, denominator: number): number {
  if (denominator === 0) throw new RangeError('a share needs a denominator other than zero')
  const sign = denominator < 0 ? -1n : 1n
  return toSafe(divideRounded(BigInt(amount) * BigInt(numerator) * sign, BigInt(denominator) * sign))
}

/** Splits an amount by weights so that the parts always add up; the remainder goes by largest fraction. */
export function split(amount: number, weights: readonly number[]): number[] {
  const sum = weights.reduce((a, b) => a + b, 0)
  if (!weights.length || weights.some(w => !Number.isSafeInteger(w) || w < 0) || sum <= 0) {
    throw new RangeError('a split needs whole weights, not all zero')
  }
  const total = BigInt(sum)
  const magnitude = BigInt(Math.abs(amount))
  const parts = weights.map(w => (magnitude * BigInt(w)) / total)
  const fractions = weights.map((w, i) => ({ i, f: (magnitude * BigInt(w)) % total }))
  let rest = Number(magnitude - parts.reduce((a, b) => a + b, 0n))
  fractions.sort((a, b) => (a.f === b.f ? a.i - b.i : a.f > b.f ? -1 : 1))
  for (const { i } of fractions) {
    if (rest-- <= 0) break
    parts[i]! += 1n
  }
  return parts.map(p => (amount < 0 ? -Number(p) : Number(p)))
}

const AMOUNT = /^([+-]?)(\d+)(?:\.(\d*))?$/

/**
 * Reads an amount in major units with a decimal point ("1234.5") into minor units.
 * Throws RangeError naming what would be right.
 */
export function parseAmount(text: string, currency: string): number {
  const digits = minorDigits(currency)
  const match = AMOUNT.exec(text.trim())
  if (!match)
    throw new RangeError(`"${text}" is not an amount: write digits with a decimal point, such as 1234.50`)
  const [, sign, whole, fraction = ''] = match
  if (fraction.length > digits && /[1-9]/.test(fraction.slice(digits))) {
    throw new RangeError(`"${text}" has more than ${digits} decimals, ${currency} has ${digits}`)
  }
  const minor = BigInt(whole + fraction.slice(0, digits).padEnd(digits, '0'))
  if (minor > BigInt(MAX_AMOUNT)) {
    throw new RangeError(
      `"${text}" is too large: at most ${toMajor(MAX_AMOUNT, currency)} ${currency} in one amount`,
    )
  }
  return Number(minor) * (sign === '-' && minor !== 0n ? -1 : 1)
}

/** Minor units as plain major units ("-1234.50"): for files, not for screens. */
export function toMajor(amount: number, currency: string): string {
  const digits = minorDigits(currency)
  const text = String(Math.abs(amount)).padStart(digits + 1, '0')
  const cut = text.length - digits
  return (amount < 0 ? '-' : '') + text.slice(0, cut) + (digits ? '.' + text.slice(cut) : '')
}

/**
 * Converts at a rate given as a decimal text: units of `to` for one unit of `from`.
 * Exact until the one rounding at the minor unit of `to`.
 */
export function convert(amount: number, from: string, to: string, rate: string): number {
  if (from === to) return amount
  const { numerator, denominator } = ratio(from, to, rate)
  return toSafe(divideRounded(BigInt(amount) * numerator, denominator))
}

/**
 * The largest amount of `from` that is worth no more than so much of `to`, at a rate as `convert` takes it:
 * for limits, so it is cut, not rounded. Example: 5.00 EUR at 0.0837 EUR for one NOK are 59.73 NOK at most.
 */
export function mostWithin(limit: number, from: string, to: string, rate: string): number {
  if (from === to) return limit
  const { numerator, denominator } = ratio(from, to, rate)
  if (numerator === 0n) throw new RangeError(`"${rate}" is not a rate: it must be more than zero`)
  return toSafe((BigInt(limit) * denominator) / numerator)
}

/** Minor units of `to` for one minor unit of `from`, as an exact fraction. */
function ratio(from: string, to: string, rate: string): { numerator: bigint; denominator: bigint } {
  const match = /^(\d+)(?:\.(\d+))?$/.exec(rate)
  if (!match) throw new RangeError(`"${rate}" is not a rate: write a decimal such as 1.1523`)
  const [, whole, fraction = ''] = match
  let numerator = BigInt(whole + fraction)
  let denominator = 10n ** BigInt(fraction.length)
  const shift = minorDigits(to) - minorDigits(from)
  if (shift >= 0) numerator *= 10n ** BigInt(shift)
  else denominator *= 10n ** BigInt(-shift)
  return { numerator, denominator }
}

/** `1210.40 EUR`: an amount inside a sentence of ours; screens write it as their reader's locale does. */
export const amountWords = (amount: number, currency: string): string =>
  `${toMajor(amount, currency)} ${currency}`
