import { XMLBuilder } from 'fast-xml-parser'
import { toMajor } from '../../core/money'

/*
 * Copies of invoices as UBL 2.1 (OASIS, ISO/IEC 19845), with what a ledger knows of them: parties, dates, tax
 * and total. The invoice itself, with its lines, was issued by invoicing.
 */

export interface UblParty {
  name: string
  street: string
  postcode: string
  city: string
  country: string
  /** Tax number; empty without. */
  taxNumber: string
}

export interface UblInvoice {
  number: string
  date: string
  due: string
  currency: string
  /** Minor units. */
  amount: number
  tax: number
  seller: UblParty
  buyer: UblParty
  text: string
}

const NAMESPACES = {
  '@_xmlns': 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2',
  '@_xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
  '@_xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
}

/** The elements stand in the order of the schema (from memory). */
const partyOf = (p: UblParty) => ({
  'cac:Party': {
    'cac:PartyName': { 'cbc:Name': p.name },
    'cac:PostalAddress': {
      ...(p.street ? { 'cbc:StreetName': p.street } : {}),
      ...(p.city ? { 'cbc:CityName': p.city } : {}),
      ...(p.postcode ? { 'cbc:PostalZone': p.postcode } : {}),
      'cac:Country': { 'cbc:IdentificationCode': p.country },
    },
    ...(p.taxNumber
      ? { 'cac:PartyTaxScheme': { 'cbc:CompanyID': p.taxNumber, 'cac:TaxScheme': { 'cbc:ID': 'VAT' } } }
      : {}),
    'cac:PartyLegalEntity': { 'cbc:RegistrationName': p.name },
  },
})

const builder = new XMLBuilder({ ignoreAttributes: false, format: true, suppressEmptyNode: true })

/** A copy of an invoice: type 380, a commercial invoice (UNTDID 1001). */
export function writeUblInvoice(i: UblInvoice): string {
  const money = (amount: number) => ({ '#text': toMajor(amount, i.currency), '@_currencyID': i.currency })
  const net = i.amount - i.tax
  return builder.build({
    '?xml': { '@_version': '1.0', '@_encoding': 'UTF-8' },
    Invoice: {
      ...NAMESPACES,
      'cbc:UBLVersionID': '2.1',
      'cbc:ID': i.number,
      'cbc:CopyIndicator': 'true',
      'cbc:IssueDate': i.date,
      'cbc:DueDate': i.due,
      'cbc:InvoiceTypeCode': '380',
      'cbc:DocumentCurrencyCode': i.currency,
      'cac:AccountingSupplierParty': partyOf(i.seller),
      'cac:AccountingCustomerParty': partyOf(i.buyer),
      'cac:TaxTotal': { 'cbc:TaxAmount': money(i.tax) },
      'cac:LegalMonetaryTotal': {
        'cbc:LineExtensionAmount': money(net),
        'cbc:TaxExclusiveAmount': money(net),
        'cbc:TaxInclusiveAmount': money(i.amount),
        'cbc:PayableAmount': money(i.amount),
      },
      'cac:InvoiceLine': {
        'cbc:ID': '1',
        'cbc:InvoicedQuantity': { '#text': '1', '@_unitCode': 'C62' },
        'cbc:LineExtensionAmount': money(net),
        'cac:Item': { 'cbc:Name': i.text || `Invoice ${i.number}` },
        'cac:Price': { 'cbc:PriceAmount': money(net) },
      },
    },
  })
}
