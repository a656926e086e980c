import { XMLBuilder } from 'fast-xml-parser'
import { toMajor } from '../../core/money'
import { sepaText } from './text'
import type { Address, Party } from './types'

/** The elements that all payment files share, in the order of the schemas. */

const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  format: true,
  suppressEmptyNode: true,
})

/** Whole XML of a message in the namespace of its format. */
export function documentXml(format: string, root: string, body: object): string {
  const Document = { '@xmlns': `urn:iso:std:iso:20022:tech:xsd:${format}`, [root]: body }
  return `<?xml version="1.0" encoding="UTF-8"?>\n${builder.build({ Document }) as string}`
}

/** Longest name and remittance of the SEPA. */
export const NAME = 70
export const REMITTANCE = 140

export const nameOf = (name: string): string => sepaText(name, NAME).text

/** Before 2019 a bank has its BIC in `BIC`, since then in `BICFI`; without one it says so. */
export const agentOf = (bic: string, isNew: boolean): object => ({
  FinInstnId: bic ? { [isNew ? 'BICFI' : 'BIC']: bic } : { Othr: { Id: 'NOTPROVIDED' } },
})

/** Structured since 2019; before, the SEPA knows a country and two lines. */
export function addressOf(address: Address | undefined, isNew: boolean): object {
  if (!address?.country) return {}
  const line = (text: string) => sepaText(text, 70).text
  const { street, postcode, city, country } = address
  if (isNew)
    return {
      PstlAdr: {
        ...(street ? { StrtNm: line(street) } : {}),
        ...(postcode ? { PstCd: sepaText(postcode, 16).text } : {}),
        ...(city ? { TwnNm: sepaText(city, 35).text } : {}),
        Ctry: country,
      },
    }
  const lines = [street, `${postcode} ${city}`.trim()].filter(Boolean).map(line)
  return { PstlAdr: { Ctry: country, ...(lines.length ? { AdrLine: lines } : {}) } }
}

export const accountOf = (iban: string): object => ({ Id: { IBAN: iban.replace(/\s/g, '') } })

export const partyOf = ({ name, address }: Party, isNew: boolean): object => ({
  Nm: nameOf(name),
  ...addressOf(address, isNew),
})

export const amountOf = (amount: number, currency: string): object => ({
  '@Ccy': currency,
  '#text': toMajor(amount, currency),
})

export const remittanceOf = (text: string): object => {
  const plain = sepaText(text, REMITTANCE).text
  return plain ? { RmtInf: { Ustrd: plain } } : {}
}

/** What a message says of itself: counts and sums, so that nothing is lost or added on its way. */
export const headOf = (
  { id, createdAt, currency, own }: { id: string; createdAt: string; currency: string; own: Party },
  count: number,
  sum: number,
): object => ({
  MsgId: id,
  CreDtTm: createdAt,
  NbOfTxs: String(count),
  CtrlSum: toMajor(sum, currency),
  InitgPty: { Nm: nameOf(own.name) },
})
