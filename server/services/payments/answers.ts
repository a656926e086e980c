import { z } from 'zod'
import { cell } from '../../db/rows'
import { createHash } from 'node:crypto'
import {
  NO_REASON,
  reasonLabel,
  refusedBy,
  strangersIn,
  type BankAnswer,
  type FilePayment,
  type FileState,
} from '../../../core/payments'
import { blockId, readPain002 } from '../../../formats/payments'
import { decodeText } from '../../../formats/statements/xml'
import { StatementFault } from '../../../formats/statements'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { ProblemError } from '../common/problems'
import { returnCollections } from '../collections/returns'
import { can } from '../../../core/people'
import { actorWho } from '../people/people'
import type { Actor } from '../people/scope'
import { refuseRefund } from '../refunds/undo'
import { holdFile, setFileState } from './files'
import { freePayments } from './send'

/* What the bank answers to a file: taken in once, whoever reads it and however often. */

interface FileRow {
  id: number
  number: string
  kind: 'transfer' | 'debit'
  state: FileState
  sentBy: number | null
}

async function fileOf(database: Handle, answer: BankAnswer): Promise<FileRow> {
  const [file] = await database.find(
    'payment_file',
    { number: answer.fileId },
    { columns: { id: 'id', number: 'number', kind: 'kind', state: 'state', sentBy: 'sent_by' } },
  )
  if (file) return file
  throw new ProblemError(
    422,
    'Not ours',
    `this answers a file ${answer.fileId}, which we never made: it may be somebody else's`,
    [{ path: 'OrgnlMsgId', message: answer.fileId, satisfy: 'ask the bank whose answer it is' }],
  )
}

interface OwnPayment extends FilePayment {
  /** The item of a refund, or the collection. */
  id: number
}

const paymentsOfRow = z.object({
  id: cell.whole,
  endToEndId: cell.text,
})

const paymentsOfCollectionRow = z.object({
  id: cell.whole,
  endToEndId: cell.text,
  block: cell.text,
})

/** The payments of a file, with the blocks they were in. */
async function paymentsOf(database: Handle, file: FileRow): Promise<OwnPayment[]> {
  if (file.kind === 'transfer')
    return (
      await database.rows(
        paymentsOfRow,
        `SELECT i.id, i.number AS endToEndId FROM refund f JOIN item i ON i.id = f.item_id
          WHERE f.file_id = :id ORDER BY i.id`,
        { id: file.id },
      )
    ).map(r => ({ ...r, blockId: blockId(file.number, 0) }))
  const rows = await database.rows(
    paymentsOfCollectionRow,
    `SELECT id, number AS endToEndId, CONCAT(collect_on, ' ', sequence) AS block FROM collection
      WHERE file_id = :id ORDER BY collect_on, sequence, id`,
    { id: file.id },
  )
  const blocks = [...new Set(rows.map(r => r.block))].sort()
  return rows.map(r => ({
    id: r.id,
    endToEndId: r.endToEndId,
    blockId: blockId(file.number, blocks.indexOf(r.block)),
  }))
}

/** States of a whole file in which the bank has it in work (ISO 20022 external status codes, from memory). */
const TAKEN = ['ACTC', 'ACCP', 'ACSP', 'ACSC', 'ACWC', 'RCVD', 'ACCC']

export interface AnswerTaken {
  file: string
  refused: number
  known: boolean
}

/** Takes in what the bank answered (pain.002). Throws a problem for what is not ours, or cannot be. */
export async function takeAnswer(
  database: Handle,
  actor: Actor,
  data: Uint8Array,
  name: string,
): Promise<AnswerTaken> {
  const answer = readAnswer(data)
  const hash = createHash('sha256').update(data).digest('hex')
  const file = await fileOf(database, answer)
  const [there] = await database.find('payment_answer', { file_hash: hash }, { columns: ['id'] })
  if (there) return { file: file.number, refused: 0, known: true }
  if (file.state === 'made')
    throw new ProblemError(
      422,
      'Never sent',
      `this answers the file ${file.number}, which was not given to the bank`,
      [{ path: 'OrgnlMsgId', message: file.number, satisfy: 'ask the bank where it has it from' }],
    )
  const payments = await paymentsOf(database, file)
  const strangers = strangersIn(answer, payments)
  // Of a file that was taken back nothing is left that could be refused.
  if (strangers.length && file.state !== 'taken-back')
    throw new ProblemError(422, 'Not ours', `${strangers[0]} is in no payment of file ${file.number}`, [
      { path: 'OrgnlEndToEndId', message: strangers[0]!, satisfy: 'ask the bank for the right answer' },
    ])
  const refused = file.state === 'taken-back' ? 0 : await workAnswer(database, actor, file, answer, payments)
  await database.insert(
    'payment_answer',
    [
      {
        file_id: file.id,
        message_id: answer.id.slice(0, 40),
        file_name: name.slice(0, 120),
        file_hash: hash,
        status: answer.status.slice(0, 8),
        refused,
        person_id: actor.id,
      },
    ],
    { ignore: true },
  )
  return { file: file.number, refused, known: false }
}

function readAnswer(data: Uint8Array): BankAnswer {
  try {
    return readPain002(decodeText(data))
  } catch (error) {
    if (!(error instanceof StatementFault)) throw error
    throw new ProblemError(422, 'Not an answer of a bank', `${error.message}: ${error.satisfy}`, [
      { path: error.path, message: error.message, satisfy: error.satisfy },
    ])
  }
}

/**
 * Whole files that are refused wait again; single payments are undone one by one, each in a transaction of
 * its own, so that an answer that was cut off in the middle goes on where it stopped.
 */
async function workAnswer(
  database: Handle,
  actor: Actor,
  file: FileRow,
  answer: BankAnswer,
  payments: readonly OwnPayment[],
): Promise<number> {
  const refused = refusedBy(answer, payments)
  const state = stateAfter(answer, refused.length, payments.length)
  if (answer.status === 'RJCT') {
    const { today } = await readSettings(database)
    if (file.kind === 'debit') await giveBackCollected(database, actor, file, answer)
    await database.transaction(async tx => {
      const held = await holdFile(tx, file.id, ['sending', 'sent', 'accepted', 'partly', 'rejected'])
      if (held.state === 'rejected') return
      const why = [reasonLabel(answer.code), answer.text].filter(Boolean).join(', ')
      await tellSender(tx, actor, file, today, why)
      await freePayments(tx, actor, file, today)
      await setFileState(tx, actor.id, held, 'rejected', why)
    })
    return payments.length
  }
  const byId = new Map(payments.map(p => [p.endToEndId, p.id]))
  const told = refused.map(({ endToEndId, code, text }) => ({ id: byId.get(endToEndId)!, code, text }))
  if (file.kind === 'debit') await refuseDebits(database, actor, file, told)
  else for (const { id, ...why } of told) await refuseRefund(database, actor, id, why)
  if (state)
    await database.transaction(async tx => {
      const held = await holdFile(tx, file.id, ['sending', 'sent', 'accepted', 'partly'])
      if (held.state !== state) await setFileState(tx, actor.id, held, state)
    })
  return refused.length
}

function stateAfter(answer: BankAnswer, refused: number, all: number): FileState | null {
  if (refused > 0 || answer.status === 'PART') return refused === all && all > 0 ? 'rejected' : 'partly'
  return TAKEN.includes(answer.status) ? 'accepted' : null
}

/**
 * Of a file that is refused whole, what was posted already because its day had come: the bank has not
 * collected it. That is not the customers' doing, so none pays a fee.
 */
async function giveBackCollected(
  database: Handle,
  actor: Actor,
  file: FileRow,
  { code, text }: BankAnswer,
): Promise<void> {
  const collected = await database.find(
    'collection',
    { file_id: file.id, state: 'collected' },
    { columns: ['id'], order: ['id'] },
  )
  await refuseDebits(
    database,
    actor,
    file,
    collected.map(({ id }) => ({ id, code, text, fee: 0 })),
  )
}

/**
 * Collections that came back, or never were. Whoever reads the bank's answers may not always run
 * collections: then they are posted in the name of who sent the file.
 */
async function refuseDebits(
  database: Handle,
  actor: Actor,
  file: FileRow,
  told: readonly { id: number; code: string; text: string; fee?: number }[],
): Promise<void> {
  if (!told.length) return
  const may = can(actor.role, 'collections.run')
  const by = may ? actor : await actorWho(database, 'collections.run', file.sentBy)
  await returnCollections(
    database,
    by,
    told.map(t => ({ ...t, code: t.code || NO_REASON })),
  )
}

const tellSenderRow = z.object({
  customerId: cell.whole,
  to: cell.whole,
})

/** Who sent a file that was refused whole gets a task, on the account of its first payment. */
async function tellSender(
  tx: Handle,
  actor: Actor,
  file: FileRow,
  today: string,
  why: string,
): Promise<void> {
  const [first] = await tx.rows(
    tellSenderRow,
    `SELECT x.customer_id AS customerId, COALESCE(p.sent_by, p.person_id) AS \`to\` FROM payment_file p
      JOIN ${file.kind === 'transfer' ? 'refund' : 'collection'} x ON x.file_id = p.id WHERE p.id = :id LIMIT 1`,
    { id: file.id },
  )
  if (!first) return
  await tx.insert('message', [
    {
      customer_id: first.customerId,
      about: 'account',
      about_id: null,
      to_id: first.to,
      text: `The bank refused the file ${file.number}: ${why}. All its payments wait again.`,
      on_date: today,
      due: today,
      person_id: actor.id,
    },
  ])
}
