import { bank } from './lines'
import { slips } from './slips'

export * from './lines'
export * from './slips'

/** Bank accounts, statements and their lines; the Tray and its paying-in slips. */
export const banking = { ...bank, ...slips }
