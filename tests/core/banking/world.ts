import {
  Directory,
  type MatchCustomer,
  type MatchItem,
  type MatchLine,
  type MatchWorld,
} from '../../../core/banking/matching'

/*
 * What the tests of the matching start from: an invoice, a line that says nothing, a house where nothing is.
 */

export const itemOf = (id: number, open: number, over: Partial<MatchItem> = {}): MatchItem => ({
  id,
  customerId: 1,
  number: `26-${1000 + id}`,
  kind: 'invoice',
  side: 'debit',
  amount: open,
  open,
  documentDate: '2026-09-01',
  dueDate: '2026-10-15',
  discounts: [],
  order: '',
  ...over,
})

export const lineOf = (over: Partial<MatchLine> = {}): MatchLine => ({
  amount: 100_000,
  currency: 'EUR',
  bookingDate: '2026-11-13',
  valueDate: '2026-11-13',
  name: '',
  iban: '',
  text: '',
  reference: '',
  endToEndId: '',
  code: '',
  returnReason: '',
  ultimate: '',
  remittance: [],
  ...over,
})

export const worldOf = (customers: readonly MatchCustomer[], over: Partial<MatchWorld> = {}): MatchWorld => ({
  directory: new Directory(customers),
  items: [],
  covered: [],
  learnt: [],
  habits: [],
  rules: [],
  returnable: [],
  closed: () => undefined,
  settled: () => [],
  graceDays: 2,
  tolerance: 500,
  ...over,
})
