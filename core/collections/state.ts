/*
 * Where a collection stands. `announced`: the customer was told; `sent`: the file is with the bank;
 * `collected`: its receipt is posted; `returned`: the bank sent it back; `refused`: it never was collected;
 * `dropped`: taken out before it was sent.
 */
export const COLLECTION_STATES = {
  announced: 'Announced',
  sent: 'Sent',
  collected: 'Collected',
  returned: 'Returned',
  refused: 'Refused',
  dropped: 'Dropped',
} as const
export type CollectionState = keyof typeof COLLECTION_STATES

/** States in which the money of its items is on its way: neither reminded nor collected again. */
export const ON_ITS_WAY: readonly CollectionState[] = ['announced', 'sent']

/** For SQL. */
export const ON_ITS_WAY_SQL = ON_ITS_WAY.map(s => `'${s}'`).join(', ')
