import { toCardinal as english } from 'n2words/en-GB'
import { toCardinal as french } from 'n2words/fr-FR'
import { toCardinal as german } from 'n2words/de-DE'
import { toCardinal as italian } from 'n2words/it-IT'
import { toCardinal as norwegian } from 'n2words/nb-NO'
import { toCardinal as spanish } from 'n2words/es-ES'
import { minorDigits } from '../../core/money'

const CARDINALS: Record<string, (n: number) => string> = {
  en: english,
  de: german,
  fr: french,
  it: italian,
  es: spanish,
  no: norwegian,
}

const nameOf = (currency: string, language: string): string =>
  new Intl.DisplayNames([language === 'no' ? 'nb' : language], { type: 'currency' }).of(currency) ?? currency

/**
 * An amount as a cheque bears it: the units in words, the rest as a fraction. Example: 1,210.40 EUR in
 * English is "one thousand two hundred and ten 40/100 Euro". In a language without words of ours, in English.
 */
export function amountInWords(amount: number, currency: string, language: string): string {
  const known = language in CARDINALS ? language : 'en'
  const digits = minorDigits(currency)
  const one = 10 ** digits
  const units = CARDINALS[known]!(Math.floor(amount / one))
  const fraction = digits ? ` ${String(amount % one).padStart(digits, '0')}/${one}` : ''
  return `${units}${fraction} ${nameOf(currency, known)}`
}
