import { z } from 'zod'
import { refuse } from '../../../../core/ledger'
import type { Settings } from '../../../db/settings'
import { command, type By } from '../../../ledger/command'
import { loadState } from '../../../ledger/load'
import { idOfCustomer } from '../customers'
import { writeFields } from './limit'
import { masterRow } from './read'

const details = z.object({ iban: z.string(), bic: z.string(), bankHolder: z.string() })

/**
 * A second person has seen changed bank details: money may go there from now on. A letter that asks to change
 * them is the oldest way to steal a payment, so who changed them cannot confirm them.
 */
export const confirmBankCommand = command({
  name: 'accounts.confirmBank',
  ability: 'customers.edit',
  input: z.object({ customer: z.string().min(1).max(32), details, before: details }),
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await masterRow(db, input.customer, {})
    return { row, ledger: await loadState(db, { customerIds: [row.id] }, settings) }
  },
  decide: ({ row }, { details }) => {
    const isSame =
      row.iban === details.iban && row.bic === details.bic && row.bankHolder === details.bankHolder
    if (isSame && row.bankChangedBy !== null) return { ok: true, postings: [], facts: null }
    return {
      ok: false,
      refusals: [
        isSame
          ? refuse('bank.confirmed', 'details', 'these details are confirmed already', 'decline this request')
          : refuse('bank.changed', 'details', 'the details were changed again since', 'decline this request'),
      ],
    }
  },
  stake: ({ row }) => ({
    kind: 'bank' as const,
    amount: null,
    currency: '',
    baseAmount: null,
    customerId: row.id,
  }),
  changes: (_state, { details, before }) =>
    [
      { field: 'IBAN', before: before.iban, after: details.iban },
      { field: 'BIC', before: before.bic, after: details.bic },
      { field: 'Account holder', before: before.bankHolder, after: details.bankHolder },
    ].filter(f => f.before !== f.after),
  after: async ({ db, input, state, actor }) => {
    const columns = { bank_changed_by: null, bank_changed_at: null }
    const fields = [{ field: 'Bank details', before: 'changed', after: `confirmed: ${input.details.iban}` }]
    return { version: await writeFields(db, actor, state.row, columns, { reason: '', fields }) }
  },
  about: input => input.customer,
})
