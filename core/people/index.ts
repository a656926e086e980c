/** The one table of who may do what; the server checks it and the interface shows by it. */
export const ROLES = [
  'controller',
  'cash',
  'supervisor',
  'treasurer',
  'sales',
  'auditor',
  'administrator',
] as const
export type Role = (typeof ROLES)[number]

export const ABILITIES = {
  read: 'read accounts, aging and documents',
  'books.read': 'read the journal, receipts and outbox of all customers',
  import: 'import customers and documents',
  'credits.post': 'post credit notes',
  'receipts.post': 'enter and allocate receipts',
  'receipts.correct': 'unallocate and reverse receipts',
  'discount.authorise': 'grant a late cash discount',
  'refunds.post': 'make refunds and cheques, and take off unclaimed credits',
  'impairment.post': 'write off what is lost, and post what of it comes back',
  'factoring.run': 'give invoices to a factor, and take in what it tells',
  'forecast.plan': 'plan payments out for the forecast',
  'payments.send': 'make files of payments and give them to the bank',
  'mandates.keep': 'enter and change mandates',
  'collections.run': 'collect by direct debit, and work what came back',
  'reminders.run': 'prepare, confirm and pause reminders',
  'notes.write': 'write notes on accounts',
  'chase.keep': 'log calls, keep promises and disputes',
  'letters.send': 'send statements and copies of documents',
  'messages.write': 'write messages to colleagues',
  'customers.edit': 'add and change customers, and ask for limits',
  'signOff.sign': 'sign what others ask for',
  'holds.set': 'hold an account, and ask for its release',
  'policy.edit': 'change reminder policies and settings',
  'people.edit': 'add people and change their roles',
  'jobs.manage': 'see and stop the imports of others',
  'audit.read': 'read the audit trail',
  'clock.advance': 'advance the Clock of the demo',
} as const
export type Ability = keyof typeof ABILITIES

const CLERK = [
  'read',
  'books.read',
  'import',
  'receipts.post',
  'receipts.correct',
  'refunds.post',
  'notes.write',
  'letters.send',
  'messages.write',
] as const
const CHASER = [
  'reminders.run',
  'customers.edit',
  'holds.set',
  'chase.keep',
  'mandates.keep',
  'impairment.post',
] as const
const TREASURER = [
  'payments.send',
  'mandates.keep',
  'collections.run',
  'factoring.run',
  'forecast.plan',
] as const
const SUPERVISOR = [
  ...CLERK,
  'credits.post',
  ...CHASER,
  ...TREASURER,
  'discount.authorise',
  'signOff.sign',
  'policy.edit',
  'jobs.manage',
  'audit.read',
  'clock.advance',
] as const

const TABLE: Record<Role, readonly Ability[]> = {
  controller: [...CLERK, ...CHASER, 'clock.advance'],
  cash: [...CLERK, 'clock.advance'],
  supervisor: SUPERVISOR,
  treasurer: ['read', 'books.read', ...TREASURER, 'messages.write', 'clock.advance'],
  sales: ['read', 'notes.write', 'messages.write'],
  auditor: ['read', 'books.read', 'audit.read'],
  administrator: [...SUPERVISOR, 'people.edit'],
}

/** What each role is for, in a few words. */
export const ROLE_WORDS: Record<Role, string> = {
  controller: 'chases, keeps customers, promises and disputes, corrects receipts, sends reminders',
  cash: 'works the bank, batches and the Tray',
  supervisor: 'all of that, signs, late discounts, settings',
  treasurer: 'collects by direct debit, gives payments to the bank, reads everything',
  sales: 'sees their own customers, writes notes and messages',
  auditor: 'reads everything, and the audit trail',
  administrator: 'everything, people and access too',
}

export function can(role: Role, ability: Ability): boolean {
  return TABLE[role]?.includes(ability) ?? false
}

/** Sales contacts read only the customers they look after. */
export function seesOwnCustomersOnly(role: Role): boolean {
  return role === 'sales'
}

export function rolesThatCan(ability: Ability): Role[] {
  return ROLES.filter(role => can(role, ability))
}
