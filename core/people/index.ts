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
  'receipts.post': 'enter and allocate receipts',
  'receipts.correct': 'unallocate and reverse receipts',
  'discount.authorise': 'grant a late cash discount',
  'reminders.run': 'prepare, confirm and pause reminders',
  'notes.write': 'write notes on accounts',
  'policy.edit': 'change reminder policies and settings',
  'people.edit': 'add people and change their roles',
  'clock.advance': 'advance the Clock of the demo',
} as const
export type Ability = keyof typeof ABILITIES

const TABLE: Record<Role, readonly Ability[]> = {
  controller: [
    'read',
    'books.read',
    'import',
    'receipts.post',
    'receipts.correct',
    'reminders.run',
    'notes.write',
    'clock.advance',
  ],
  cash: ['read', 'books.read', 'import', 'receipts.post', 'receipts.correct', 'notes.write', 'clock.advance'],
  supervisor: [
    'read',
    'books.read',
    'import',
    'receipts.post',
    'receipts.correct',
    'discount.authorise',
    'reminders.run',
    'notes.write',
    'policy.edit',
    'clock.advance',
  ],
  treasurer: ['read', 'books.read', 'clock.advance'],
  sales: ['read', 'notes.write'],
  auditor: ['read', 'books.read'],
  administrator: [
    'read',
    'books.read',
    'import',
    'receipts.post',
    'receipts.correct',
    'discount.authorise',
    'reminders.run',
    'notes.write',
    'policy.edit',
    'people.edit',
    'clock.advance',
  ],
}

export function can(role: Role, ability: Ability): boolean {
  return TABLE[role].includes(ability)
}

/** Sales contacts read only the customers they look after. */
export function seesOwnCustomersOnly(role: Role): boolean {
  return role === 'sales'
}

export function rolesThatCan(ability: Ability): Role[] {
  return ROLES.filter(role => can(role, ability))
}
