import anyAscii from 'any-ascii'

/*
 * The signs that every bank of the SEPA takes: a–z A–Z 0–9 and / - ? : ( ) . , ' + and space; no reference
 * starts or ends with "/" or holds "//" (EPC217-08, from memory).
 */

const OTHER = /[^a-zA-Z0-9/\-?:().,'+ ]/g
/** Signs of which something is left that says the same. */
const SAID: Readonly<Record<string, string>> = { '&': '+', _: '-', '"': "'", ';': ',', '@': '(at)' }
/** German ways to write what has no sign of its own; the package would take the dots off. */
const GERMAN: Readonly<Record<string, string>> = {
  ä: 'ae',
  ö: 'oe',
  ü: 'ue',
  Ä: 'Ae',
  Ö: 'Oe',
  Ü: 'Ue',
}

/** A text in the signs of the SEPA, at most so long; `changed` when the bank will read another than given. */
export function sepaText(text: string, most: number): { text: string; changed: boolean } {
  const latin = anyAscii(text.replace(/[äöüÄÖÜ]/g, sign => GERMAN[sign]!))
  const plain = latin
    .replace(/[&_";@]/g, sign => SAID[sign]!)
    .replace(OTHER, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, most)
    .trim()
  return { text: plain, changed: plain !== text.trim() }
}

/** What is wrong with a reference (of a message, a payment, a mandate); empty for nothing. */
export function referenceFault(reference: string): string {
  if (!reference || reference.length > 35) return 'a reference has 1 to 35 signs'
  if (/[^a-zA-Z0-9/\-?:().,'+ ]/.test(reference)) return 'it has signs that no bank of the SEPA takes'
  if (/^\/|\/$|\/\//.test(reference)) return 'a reference neither starts nor ends with "/", nor holds "//"'
  return ''
}
