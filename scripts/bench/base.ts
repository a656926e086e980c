import { openDatabase } from '../../server/db/connection'

/** How large the measured world is; `npm run bench -- small` takes a hundredth of it. */
export const small = process.argv.includes('small')
export const CUSTOMERS = small ? 500 : 50_000
export const INVOICES = small ? 13_500 : 650_000
export const RECEIPTS = small ? 3500 : 350_000
export const OPEN = small ? 10_000 : 300_000
export const TODAY = '2026-11-16'
export const database = openDatabase(process.env.DATABASE_URL!, 12)
export const say = (text: string) => console.log(text)

/** The supervisor who posts what is measured. */
export const actor = { id: 1, name: 'Bench', email: 'bench@example.org', role: 'supervisor' as const }
