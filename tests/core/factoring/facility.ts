import type { Facility } from '../../../core/factoring'

/** Terms that the tests of the core share: 80 % advanced, 1.5 % commission with 20 % of tax. */
export const FACILITY: Facility = {
  id: 1,
  code: 'TERN',
  name: 'Tern Finance',
  recourse: false,
  disclosed: true,
  currencies: ['EUR', 'GBP'],
  advanceRate: 8000,
  commissionRate: 150,
  commissionFloor: 0,
  taxRate: 2000,
  interestRate: 600,
  interestReference: null,
  yearDays: 360,
  limit: null,
  debtorLimit: null,
  concentration: null,
  recourseDays: 90,
  eligible: { mostAge: null, mostTerm: null, countries: [], classes: [], least: 0 },
  accounts: { current: '1310', commission: '6910', interest: '6920', tax: '2210' },
}
