import type { Role } from '../people'

/*
 * What each role sees first: what moved since the last working day, then what waits for it, in the order in
 * which it matters to who does that work. Ours, after the rhythm of the day.
 */

/** Things that moved. */
export type Moved =
  | 'received'
  | 'returned'
  | 'overdue'
  | 'billed'
  | 'held'
  | 'released'
  | 'limits'
  | 'decided'
  | 'settings'
  | 'corrected'
  | 'broken'

/** Things that wait. */
export type Waits =
  | 'sign-off'
  | 'bank-fault'
  | 'bank-files'
  | 'bank'
  | 'batch'
  | 'tray'
  | 'cash'
  | 'orders'
  | 'held'
  | 'reviews'
  | 'reminder-run'
  | 'reminders'
  | 'mail'
  | 'calls'
  | 'promises'
  | 'disputes'
  | 'messages'
  | 'answers'
  | 'refunds'
  | 'cheques'
  | 'payment-files'
  | 'collections'
  | 'came-back'
  | 'mandates'
  | 'factor-fault'

interface First {
  moved: readonly Moved[]
  waits: readonly Waits[]
}

const MONEY = ['bank-fault', 'bank-files', 'bank', 'batch', 'tray', 'cash'] as const
const SUPERVISOR: First = {
  moved: ['decided', 'returned', 'broken', 'held', 'released', 'limits', 'received', 'overdue'],
  waits: [
    'sign-off',
    'messages',
    'disputes',
    'orders',
    'held',
    'reviews',
    ...MONEY,
    'payment-files',
    'factor-fault',
    'came-back',
    'refunds',
    'cheques',
    'answers',
    'calls',
    'promises',
    'reminder-run',
    'reminders',
    'mail',
  ],
}

/** By role what is told, the most urgent first; what is not named is not told. */
export const FIRST: Readonly<Record<Role, First>> = {
  controller: {
    moved: ['returned', 'broken', 'received', 'overdue', 'held', 'released', 'limits', 'decided'],
    waits: [
      'messages',
      'answers',
      ...MONEY,
      'came-back',
      'calls',
      'promises',
      'disputes',
      'orders',
      'held',
      'reminder-run',
      'reminders',
      'reviews',
      'mail',
    ],
  },
  cash: {
    moved: ['received', 'returned', 'decided'],
    waits: [...MONEY, 'refunds', 'cheques', 'messages', 'mail'],
  },
  supervisor: SUPERVISOR,
  administrator: SUPERVISOR,
  treasurer: {
    moved: ['received', 'returned', 'billed', 'overdue'],
    waits: [
      'messages',
      'payment-files',
      'factor-fault',
      'came-back',
      'collections',
      'refunds',
      'mandates',
      'promises',
      'bank',
      'tray',
      'cash',
      'orders',
      'held',
    ],
  },
  sales: {
    moved: ['held', 'released', 'overdue', 'received', 'billed'],
    waits: ['messages', 'answers', 'disputes', 'orders', 'held'],
  },
  auditor: {
    moved: ['settings', 'corrected', 'returned', 'released', 'limits'],
    waits: ['sign-off', 'bank-fault', 'bank', 'tray', 'cash'],
  },
}

/** Lines in the order of a role; what it is not told is left out. Of one kind they stay as they come. */
export function inOrderOf<Kind extends string, Line extends { kind: Kind }>(
  kinds: readonly Kind[],
  lines: readonly Line[],
): Line[] {
  return kinds.flatMap(kind => lines.filter(line => line.kind === kind))
}

export * from './figures'
