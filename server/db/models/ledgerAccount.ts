import { optional, table, text } from './columns'

/** The chart of accounts. */
export const ledgerAccount = table('ledger_account', ['number'], {
  number: text(16, ''),
  name: text(80, ''),
  type: text(12, 'asset, liability, income or expense'),
  purpose: optional(text(24, 'what the program uses it for; null: only what people post there')),
})
