import type { Refusal } from '../../core/ledger'

/** The ledger will not post; the refusals say which rule and what would satisfy it. */
export class LedgerRefused extends Error {
  constructor(readonly refusals: Refusal[]) {
    super(refusals.map(r => `${r.message}: ${r.satisfy}`).join('; '))
  }
}
