import { createHash } from 'node:crypto'
import type { Sequelize, Transaction } from 'sequelize'
import type { Decision, LedgerState, Posting, Refusal } from '../../core/ledger'
import { select } from '../db/connection'
import { loadState, type Wanted } from './load'
import { writePostings, type Written } from './write'

/** The ledger will not post; the refusals say which rule and what would satisfy it. */
export class LedgerRefused extends Error {
  constructor(readonly refusals: Refusal[]) {
    super(refusals.map(r => `${r.message}: ${r.satisfy}`).join('; '))
  }
}

export interface Door {
  state: LedgerState
  tx: Transaction
  /** `as`: the person the rows are written for, when not the one of the passage. */
  write: (postings: readonly Posting[], as?: number) => Promise<Written[]>
}

export interface Passage extends Wanted {
  personId: number
  /** From the Idempotency-Key header; a repeated key answers with the first result. */
  idempotency?: { key: string; request: unknown }
}

export function posted(decision: Decision): Posting {
  if (!decision.ok) throw new LedgerRefused(decision.refusals)
  return decision.posting
}

const RETRIES = 8
const isRetryable = (error: unknown) => {
  const code = (error as { original?: { code?: string } }).original?.code
  return code === 'ER_LOCK_DEADLOCK' || code === 'ER_LOCK_WAIT_TIMEOUT'
}
const isDuplicate = (error: unknown) =>
  (error as { original?: { code?: string } }).original?.code === 'ER_DUP_ENTRY'

/**
 * The one door to the ledger: one transaction, the accounts locked by id in order, the state loaded under the
 * lock. What `work` answers must be plain JSON; it is kept under the idempotency key. Deadlocks are retried.
 */
export async function throughDoor<T>(
  database: Sequelize,
  passage: Passage,
  work: (door: Door) => Promise<T>,
): Promise<T> {
  const hash = passage.idempotency
    ? createHash('sha256').update(JSON.stringify(passage.idempotency.request)).digest('hex')
    : ''
  for (let attempt = 1; ; attempt++) {
    try {
      return await database.transaction(async tx => {
        const ids = [...new Set(passage.customerIds)].sort((a, b) => a - b)
        for (let at = 0; at < ids.length; at += 5000) {
          await select(
            database,
            'SELECT id FROM customer WHERE id IN (:ids) ORDER BY id FOR UPDATE',
            { ids: ids.slice(at, at + 5000) },
            tx,
          )
        }
        if (passage.idempotency) {
          const [first] = await select<{ request_hash: string; result: string }>(
            database,
            `SELECT request_hash, result FROM idempotency WHERE person_id = :personId
              AND idempotency_key = :key`,
            { personId: passage.personId, key: passage.idempotency.key },
            tx,
          )
          if (first && first.request_hash !== hash) {
            throw new LedgerRefused([
              {
                rule: 'idempotency.reused',
                path: 'Idempotency-Key',
                message: 'this key was used for another request',
                satisfy: 'use a new key for a new request',
              },
            ])
          }
          if (first) return JSON.parse(first.result) as T
        }
        const state = await loadState(database, passage, tx)
        const result = await work({
          state,
          tx,
          write: (postings, as = passage.personId) => writePostings(database, tx, as, state, postings),
        })
        if (passage.idempotency) {
          await database.getQueryInterface().bulkInsert(
            'idempotency',
            [
              {
                person_id: passage.personId,
                idempotency_key: passage.idempotency.key,
                request_hash: hash,
                result: JSON.stringify(result),
              },
            ],
            { transaction: tx },
          )
        }
        return result
      })
    } catch (error) {
      // Two requests with one key at once: the second finds the first's result on its next try.
      const again =
        isRetryable(error) ||
        (passage.idempotency !== undefined &&
          isDuplicate(error) &&
          /idempotency/.test(String((error as { parent?: { sql?: string } }).parent?.sql)))
      if (!again || attempt >= RETRIES) throw error
      await new Promise(resolve => setTimeout(resolve, 10 * attempt * (0.5 + Math.random())))
    }
  }
}
