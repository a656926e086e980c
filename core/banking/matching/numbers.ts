/**
 * A document number as payers write it: capitals and digits only, so that 26-3381, 26/3381 and "26 3381" are
 * one.
 */
export const referenceKey = (number: string): string => number.toUpperCase().replace(/[^A-Z0-9]/g, '')

const mod97 = (text: string): number => {
  let rest = 0
  for (const c of text) rest = Number(String(rest) + (c >= 'A' ? String(c.charCodeAt(0) - 55) : c)) % 97
  return rest
}

/**
 * Whether a text is a creditor reference: RF, two check digits, up to 21 letters and digits, mod 97 = 1 (ISO
 * 11649).
 */
export function isCreditorReference(text: string): boolean {
  const plain = text.toUpperCase().replace(/\s/g, '')
  return /^RF\d{2}[A-Z0-9]{1,21}$/.test(plain) && mod97(plain.slice(4) + plain.slice(0, 4)) === 1
}

/** The creditor reference of a document number (ISO 11649). Throws RangeError for more than 21 characters. */
export function creditorReference(number: string): string {
  const key = referenceKey(number)
  if (!key || key.length > 21)
    throw new RangeError(
      `a creditor reference holds 1 to 21 letters and digits, "${number}" has ${key.length}`,
    )
  return `RF${String(98 - mod97(`${key}RF00`)).padStart(2, '0')}${key}`
}

/** Texts beside numbers that look like some: dates, amounts, telephone numbers. Common practice of payers. */
const BESIDE = [
  /(?<![\w./-])\d{1,2}[./]\d{1,2}[./](?:\d{4}|\d{2})(?![\w/-]|\.\d)/g,
  /(?<![\w./-])\d{4}-\d{2}-\d{2}(?![\w-])/g,
  /(?<![\w./-])\d{1,3}(?:[.,' ]\d{3})*[.,]\d{2}(?![\w/-]|[.,]\d)/g,
  /\b(?:TEL|TELEFON|PHONE|FON|FAX|MOBIL|MOBILE)\b[.:]?\s*[+\d][\d /()-]{5,}/g,
]

/**
 * The text in capitals, without what only looks like a number. One that we know is one, whatever its form.
 */
function numbersOnly(text: string, known: (key: string) => boolean): string {
  let plain = text.toUpperCase()
  for (const pattern of BESIDE)
    plain = plain.replace(pattern, found =>
      known(referenceKey(found)) ? found : found.replace(/[A-Z0-9]/g, '#'),
    )
  return plain
}

/** Between two numbers of a list: 26-3381/82, 4711006, 07 und 12. */
const LIST = /^\s*(?:[/,;+&]|U\.|UND|AND|ET|E|Y|OG|UN|\s)\s*$/
/** Between the first and the last of a range: 4711006 - 008, 4711006 bis 4711008. */
const RANGE = /^\s*(?:-|–|—|BIS|TO|TIL|THRU|THROUGH|À|A|AL|TOT|JUSQU.?À)\s*$/

/** So many documents one range may stand for: more is a misreading. */
const MOST_IN_RANGE = 60

/** The numbers from one to another, both included; the second may be the end of a number only. */
export function numbersBetween(from: string, to: string): string[] {
  const [, head, tail] = /^(.*?)(\d+)$/.exec(from) ?? []
  const digits = to.replace(/\D/g, '')
  if (head === undefined || tail === undefined || !digits) return []
  const whole =
    digits.length >= tail.length ? digits.slice(-tail.length) : tail.slice(0, -digits.length) + digits
  const [first, last] = [BigInt(tail), BigInt(whole)]
  if (last <= first || last - first > BigInt(MOST_IN_RANGE)) return []
  return Array.from(
    { length: Number(last - first) + 1 },
    (_, i) => head + String(first + BigInt(i)).padStart(tail.length, '0'),
  )
}

/**
 * Every document number that a text may hold: runs of letters and digits, alone and joined with those after
 * them. `known` says whether such a number exists. A list such as 26-3381/82/95 is read as three, a range
 * such as 4711-4715 as all between; dates, amounts and telephone numbers are none.
 */
export function numbersIn(
  text: string,
  known: (key: string) => boolean,
  plain = numbersOnly(text, known),
): string[] {
  const found = new Set<string>()
  const reference = /RF\d{2}[A-Z0-9 ]{1,25}/i.exec(text)?.[0].replace(/\s/g, '').toUpperCase()
  if (reference) {
    for (let end = reference.length; end > 5; end--) {
      const short = reference.slice(0, end)
      if (isCreditorReference(short) && known(short.slice(4))) {
        found.add(short.slice(4))
        break
      }
    }
  }
  // A short number written with its separators, such as 26-1.
  for (const token of plain.match(/[A-Z0-9]+(?:[-/.][A-Z0-9]+)+/g) ?? []) {
    const key = referenceKey(token)
    if (key.length >= 3 && key.length <= 24 && known(key)) found.add(key)
  }
  const runs = [...plain.matchAll(/[A-Z]+|\d+/g)].map(m => ({
    text: m[0],
    at: m.index,
    end: m.index + m[0].length,
  }))
  let last = { key: '', end: 0 }
  for (let i = 0; i < runs.length; i++) {
    let joined = ''
    let hit = ''
    let used = i
    for (let n = i; n < Math.min(runs.length, i + 4); n++) {
      joined += runs[n]!.text
      if (joined.length > 24) break
      if (joined.length >= 4 && /\d{2}/.test(joined) && known(joined)) {
        hit = joined
        used = n
      }
    }
    const run = runs[i]!
    const between = plain.slice(last.end, run.at)
    const isEnd = last.key !== '' && /^\d{2,}$/.test(run.text) && run.text.length < last.key.length
    if (last.key && RANGE.test(between) && (hit || isEnd))
      for (const key of numbersBetween(last.key, hit || run.text)) if (known(key)) found.add(key)
    if (hit) {
      found.add(hit)
      last = { key: hit, end: runs[used]!.end }
      i = used
    } else if (isEnd && run.text.length <= 3 && LIST.test(between)) {
      const short = last.key.slice(0, -run.text.length) + run.text
      if (short !== last.key && known(short)) found.add(short)
      last = { key: last.key, end: run.end }
    }
  }
  return [...found]
}

/** A database is asked for so many numbers of one text at most: a text of more is none of a payer's. */
export const MOST_ASKED = 600

/** Every key that a text may hold, known or not: what a database is asked for before `numbersIn`. */
export function possibleNumbers(text: string): string[] {
  const found = new Set<string>()
  const ask = (key: string) => {
    found.add(key)
    return false
  }
  // What looks like a date may be a number of ours: both readings are asked for.
  numbersIn(text, ask)
  numbersIn(text, ask, text.toUpperCase())
  const reference = /RF\d{2}([A-Z0-9 ]{1,25})/i.exec(text)?.[1]?.replace(/\s/g, '').toUpperCase()
  if (reference) for (let end = reference.length; end > 1; end--) found.add(reference.slice(0, end))
  // The ends of a list such as 26-3381/82, and what lies within a range, only make sense after a number; each
  // number is tried with each.
  const plain = text.toUpperCase()
  const ends = plain.match(/(?<!\d)\d{2,3}(?!\d)/g) ?? []
  const ranges = plain.match(/(?<=(?:[-–—]|BIS|TO|TIL|THRU|THROUGH|À|AL?|TOT)\s*)\d{2,}/g) ?? []
  for (const key of [...found])
    if (/^\w{4,}$/.test(key)) {
      for (const end of ends.slice(0, 12)) found.add(key.slice(0, -end.length) + end)
      for (const to of ranges.slice(0, 4)) for (const inside of numbersBetween(key, to)) found.add(inside)
    }
  return [...found].slice(0, MOST_ASKED)
}

/**
 * Whether two numbers are one slip of the finger apart: a wrong sign, one too many or too few, two that
 * changed places. O for 0 and I for 1 count as no slip (Damerau-Levenshtein distance, restricted).
 */
export function isSlip(a: string, b: string): boolean {
  const [x, y] = [a, b].map(t => t.replace(/O/g, '0').replace(/[IL]/g, '1')) as [string, string]
  if (Math.abs(x.length - y.length) > 1) return false
  let from = 0
  while (from < x.length && x[from] === y[from]) from++
  if (from === x.length && from === y.length) return true
  const [restX, restY] = [x.slice(from), y.slice(from)]
  if (restX.slice(1) === restY.slice(1) || restX.slice(1) === restY || restX === restY.slice(1)) return true
  return restX[0] === restY[1] && restX[1] === restY[0] && restX.slice(2) === restY.slice(2)
}

/** The form of a number: 9 for each digit, A for each letter. */
export const shapeOf = (key: string): string => key.replace(/\d/g, '9').replace(/[A-Z]/g, 'A')

/** Single words of a text that may be a number, whole or in part; dates, amounts and telephones are none. */
export function tokensIn(text: string): string[] {
  const plain = numbersOnly(text, () => false)
  return [
    ...new Set(
      (plain.match(/[A-Z0-9]+(?:[-/.][A-Z0-9]+)*/g) ?? [])
        .map(referenceKey)
        .filter(key => /\d{2}/.test(key) && key.length <= 24),
    ),
  ]
}

/** Days that a text writes out, as 29.06.26, 29/06/2026 or 2026-06-29; day before month. */
export function datesIn(text: string): string[] {
  const found = new Set<string>()
  for (const [, d, m, y] of text.matchAll(/(?<!\d)(\d{1,2})[./](\d{1,2})[./](\d{4}|\d{2})(?!\d)/g))
    found.add(`${y!.length === 2 ? `20${y}` : y}-${m!.padStart(2, '0')}-${d!.padStart(2, '0')}`)
  for (const [day] of text.matchAll(/(?<!\d)\d{4}-\d{2}-\d{2}(?!\d)/g)) found.add(day)
  return [...found]
}

/** An IBAN without its blanks, in capitals. */
export const plain = (iban: string) => iban.replace(/\s/g, '').toUpperCase()
