import { addDays } from '../../../core/calendar'
import type {
  Level,
  Policy,
  PolicyInterest,
  ReminderCustomer,
  ReminderItem,
  RunTerms,
} from '../../../core/reminders'

export const AS_OF = '2026-11-16'

const level = (over: Partial<Level>): Level => ({
  days: 5,
  sincePrevious: 7,
  minimum: { EUR: 2500 },
  minimumItem: {},
  fee: {},
  feeShare: null,
  interest: false,
  deadlineDays: 10,
  channel: 'any',
  consequence: { hold: false, tellSales: false, handOver: false },
  ...over,
})

export const LEVELS: Level[] = [
  level({}),
  level({ days: 20, sincePrevious: 14, fee: { EUR: 1500 } }),
  level({ days: 40, sincePrevious: 14, fee: { EUR: 4000 }, deadlineDays: 7 }),
]

/** The first level as it stands, the others with what is said of all. */
export const levels = (over: Partial<Level>): Level[] => LEVELS.map(l => ({ ...l, ...over }))

export const FIXED: PolicyInterest = {
  convention: 'actual/365',
  percent: '10',
  reference: null,
  basis: { otherwise: 'floating', byCountry: {} },
  minimum: {},
}

export const policy = (over: Partial<Policy> = {}): Policy => ({
  code: 'standard',
  validFrom: '2000-01-01',
  letters: 'account',
  graceDays: 0,
  levels: LEVELS,
  interest: null,
  feeTax: '0',
  chargesCause: false,
  chargesBearInterest: false,
  ...over,
})

export const terms = (over: Partial<Policy> = {}, rest: Partial<RunTerms> = {}): RunTerms => ({
  policy: policy(over),
  asOf: AS_OF,
  rates: [],
  edits: {},
  ...rest,
})

let id = 0
export const item = (late: number, open: number, over: Partial<ReminderItem> = {}): ReminderItem => ({
  id: ++id,
  number: `26-${id}`,
  part: 1,
  currency: 'EUR',
  dueDate: addDays(AS_OF, -late),
  open,
  amount: Math.max(0, open),
  moves: [],
  chargedThrough: null,
  level: 0,
  noticeDate: null,
  deadline: null,
  pause: null,
  isCharge: false,
  ...over,
})

export const customer = (items: ReminderItem[], over: Partial<ReminderCustomer> = {}): ReminderCustomer => ({
  number: 'K1',
  name: 'Hollin',
  country: 'IE',
  language: 'en',
  email: 'maud@hollin.example',
  pause: null,
  handedOver: null,
  items,
  ...over,
})
