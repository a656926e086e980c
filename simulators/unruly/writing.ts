import { creditorReference, referenceKey, type MatchItem } from '../../core/banking/matching'
import { toMajor } from '../../core/money'
import type { Chance } from '../chance'
import type { House, Payer, Style } from './house'

/** What a payer writes: text and structured reference, and whether the documents can be read out of it. */
export interface Written {
  text: string
  reference: string
  /** How well the documents are named. */
  names: 'all' | 'some' | 'ends' | 'none'
  how: string
}

const OPENING = [
  'Rechnung',
  'RE',
  'Rg.Nr.',
  'Invoice',
  'Inv no',
  'Facture',
  'Fact. n°',
  'Fattura',
  'Factura',
  'Faktura',
  'payment of',
  '',
]
const IDLE = [
  'payment thank you',
  'settlement',
  'Zahlung',
  'danke',
  'règlement',
  'as agreed with Jo',
  'November',
  'Lieferung 3 Paletten',
  'kelp + dulse',
  '',
]
const PAPER = ['SEPA-UEBERWEISUNG', 'DATUM 12.11.2026, 09.31 UHR', 'TAN 482913', 'GUTSCHRIFT', 'Ref. ZV-2026']
const day = (c: Chance, iso: string): string => {
  const [y, m, d] = iso.split('-') as [string, string, string]
  return c.pick([`${d}.${m}.${y}`, `${d}.${m}.${y.slice(2)}`, `${d}/${m}/${y}`, iso])
}
const swap = (text: string, at: number) =>
  text.slice(0, at) + (text[at + 1] ?? '') + text[at]! + text.slice(at + 2)

/** A slip of the finger in the digits of a number. */
export function slipOf(c: Chance, number: string): string {
  const digits = [...number].flatMap((sign, n) => (/\d/.test(sign) && n > 1 ? [n] : []))
  const at = c.pick(digits)
  return c.pick([
    () => number.slice(0, at) + String((Number(number[at]) + c.whole(1, 9)) % 10) + number.slice(at + 1),
    () => swap(number, Math.min(at, number.length - 2)),
    () => number.slice(0, at) + number.slice(at + 1),
    () => number.slice(0, at) + number[at]! + number.slice(at),
    () => number.replace('0', 'O'),
  ])()
}

/** A slip that does not make another of the payer's own of the same amount: nobody could tell that one. */
function unlike(c: Chance, p: Payer, item: MatchItem): string {
  for (let tries = 0; tries < 20; tries++) {
    const slip = slipOf(c, item.number)
    if (!p.items.some(i => referenceKey(i.number) === referenceKey(slip) && i.open === item.open)) return slip
  }
  return item.number
}

/** A number as people copy it. */
function copied(c: Chance, number: string): string {
  if (!c.happens(0.35)) return number
  return c.pick([
    () => number.replace(/[-/]/g, ' '),
    () => number.replace(/[-/]/g, ''),
    () => number.replace(/[-/]/g, '.'),
    () => number.toLowerCase(),
    () => `${number.slice(0, -3)} ${number.slice(-3)}`,
    () => `${number.slice(0, -2)}\n${number.slice(-2)}`,
  ])()
}

/** A list as people shorten it: the first number whole, of the others what differs. */
function shortened(c: Chance, numbers: readonly string[]): string {
  const [first, ...others] = [...numbers].sort()
  const mark = c.pick(['/', ', ', ' + ', ' u. ', ' und ', ' & '])
  return [
    first!,
    ...others.map(n => {
      let same = 0
      while (n[same] === first![same] && same < n.length - 2) same++
      const end = n.slice(same)
      return n.length === first!.length && end.length <= 3 && /^\d+$/.test(end) ? end : n
    }),
  ].join(mark)
}

export function write(house: House, p: Payer, items: readonly MatchItem[], amount: number): Written {
  const { c, muddle } = house
  const numbers = items.map(i => i.number)
  const habit: Style = c.happens(0.75 / muddle + 0.15)
    ? p.style
    : c.pick(['full', 'silent', 'wordy', 'tails', 'slip', 'list'])
  const opening = c.pick(OPENING)
  const joined = numbers.map(n => copied(c, n)).join(c.pick([' ', ', ', '; ', ' + ', '/']))
  const written = ((): Written => {
    const of = (text: string, names: Written['names'], how: string, reference = ''): Written => ({
      text,
      reference,
      names,
      how,
    })
    if (!numbers.length) return of(c.pick(IDLE), 'none', 'nothing to name')
    switch (habit) {
      case 'list':
        return of(`${opening} ${shortened(c, numbers)}`, 'all', 'a shortened list')
      case 'reference':
        return numbers.length === 1 && numbers[0]!.length <= 20
          ? of('', 'all', 'creditor reference', creditorReference(numbers[0]!))
          : of(joined, 'all', 'full numbers')
      case 'tails':
        return of(
          `${opening} ${numbers.map(n => n.replace(/\D/g, '').slice(-c.whole(4, 5))).join(' ')}`,
          'ends',
          'only ends',
        )
      case 'silent':
        return of(c.pick(IDLE), 'none', 'silent')
      case 'order':
        return items.every(i => i.order)
          ? of(`order ${[...new Set(items.map(i => i.order))].join(' ')}`, 'some', 'order numbers')
          : of(joined, 'all', 'full numbers')
      case 'customer':
        return of(
          `${c.pick(['Kd-Nr', 'customer', 'client', 'a/c'])} ${p.number}`,
          'none',
          'customer number only',
        )
      case 'dates':
        return of(
          `${opening} ${c.pick(['v.', 'vom', 'dated', 'du'])} ${items.map(i => day(c, i.documentDate)).join(', ')}`,
          'some',
          'dates only',
        )
      case 'slip':
        return of(`${opening} ${[unlike(c, p, items[0]!), ...numbers.slice(1)].join(' ')}`, 'some', 'a slip')
      case 'wordy':
        return of(
          [
            opening,
            ...items.map((i, n) => `${copied(c, numbers[n]!)} v. ${day(c, i.documentDate)}`),
            c.happens(0.5) ? `EUR ${toMajor(amount, 'EUR').replace('.', c.pick(['.', ',']))}` : '',
            c.happens(0.3) ? `KdNr ${p.number}` : '',
            c.happens(0.2) ? 'Tel. 0351/482913' : '',
          ].join(' '),
          'all',
          'wordy',
        )
      default:
        return of(`${opening} ${joined}`, 'all', 'full numbers')
    }
  })()
  // Long texts are cut where the form ends; banks put their own words in.
  const room = c.happens(0.04 * muddle) ? 35 : 140
  const cut = written.text.length > room
  const bank = c.happens(0.08) ? ` ${c.pick(PAPER)}` : ''
  return {
    ...written,
    text: `${written.text.slice(0, room)}${bank}`.trim(),
    names: cut && written.names === 'all' ? 'some' : written.names,
    how: cut ? `${written.how}, cut off` : written.how,
  }
}
