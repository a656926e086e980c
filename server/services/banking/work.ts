import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import type { acceptBody, BankLineDetail, LineProposal } from '../../../contract/banking/lines'
import { lineAction } from '../../../contract/banking/lines'
import type { Proof } from '../../../contract/receipts'
import {
  afterPosting,
  mergePostings,
  narrowTo,
  type Decision,
  type LedgerState,
  type Line,
  type Posting,
} from '../../../core/ledger'
import { postBankReceipt, postToLedger, settle, takeBack, type BankMovement } from '../../../core/banking'
import { reverse, unallocate } from '../../../core/receipts'
import { convert } from '../../../core/money'
import { select } from '../../db/connection'
import { readSettings } from '../../db/settings'
import { posted, throughDoor, type Door } from '../../ledger/door'
import { loadLines as loadItemLines, type Wanted } from '../../ledger/load'
import { insert, type Written } from '../../ledger/write'
import { ProblemError } from '../common/problems'
import { rateOn } from '../rates/rates'
import { proofOf, requireLateDiscount } from '../receipts/receipts'
import { findCustomer, findCustomers, type Actor, type Customer } from '../people/scope'
import { lineById, loadLines, proposeFor, readLine, type LineRow } from './lines'
import { markMet } from './met'
import { loadCovered } from './world'

type ActionIn = z.output<typeof lineAction>
type Target = { kind: 'means' | 'slip' | 'reversal' | 'receipt' | 'return'; id: number }

/** What accepting a line means: what must be locked, what is decided, what it is then bound to. */
interface Work {
  line: LineRow
  kind: ActionIn['kind']
  wanted: Wanted
  customer: Customer | null
  decide: (state: LedgerState, tx?: Transaction) => Promise<Decision>
  targets: (posting: Posting, written: Written) => Target[]
  told: string
  learn: number[]
}

const movementOf = (line: LineRow, rate: string): BankMovement => ({
  date: line.bookingDate,
  currency: line.currency,
  amount: line.amount,
  account: line.account,
  text: (line.text || line.name).slice(0, 200),
  reference: (line.reference || line.text || line.name).slice(0, 80),
  rate,
})

async function rateFor(
  database: Sequelize,
  state: LedgerState,
  line: LineRow,
  tx?: Transaction,
): Promise<string> {
  const rate = await rateOn(database, state.base, line.currency, line.bookingDate, tx)
  if (rate === undefined)
    throw new ProblemError(
      422,
      'No exchange rate',
      `there is no rate for ${line.currency} on ${line.bookingDate}`,
    )
  return rate
}

async function workOf(
  database: Sequelize,
  line: LineRow,
  action: ActionIn,
  told: string,
  actor: Actor,
  tx?: Transaction,
  known?: ReadonlyMap<string, Customer>,
): Promise<Work> {
  const common = { line, kind: action.kind, told: told.slice(0, 500) }
  if (action.kind === 'receipt') {
    if (action.lateDiscount) requireLateDiscount(actor)
    const customers = await Promise.all(
      action.parts.map(async p => known?.get(p.customer) ?? findCustomer(database, p.customer, {}, tx)),
    )
    const parts = action.parts.map((p, i) => ({
      ...p,
      customerId: customers[i]!.id,
      amount: p.allocations.reduce((a, x) => a + (x.paid ?? x.amount), 0) + p.onAccount,
    }))
    return {
      ...common,
      customer: customers[0]!,
      learn: customers.map(c => c.id),
      wanted: {
        customerIds: customers.map(c => c.id),
        itemIds: parts.flatMap(p => [
          ...p.allocations.map(a => a.itemId),
          ...p.credits.flatMap(c => [c.creditItemId, c.debitItemId]),
        ]),
      },
      decide: async (state, t) =>
        postBankReceipt(
          state,
          { ...movementOf(line, await rateFor(database, state, line, t)), paidOn: line.valueDate },
          parts,
          action.lateDiscount,
        ),
      targets: (posting, written) =>
        posting.items.flatMap((i, n) =>
          i.kind === 'receipt' ? [{ kind: 'receipt' as const, id: written.items[n]!.id }] : [],
        ),
    }
  }
  if (action.kind === 'covered') {
    const covered = await loadCovered(database, line.currency, tx, action.targets)
    return {
      ...common,
      customer: null,
      learn: [],
      wanted: {
        customerIds: [...new Set(covered.flatMap(c => (c.customerId === null ? [] : [c.customerId])))],
      },
      decide: async (state, t) => {
        if (t)
          await select(
            database,
            'SELECT id FROM slip WHERE id IN (:ids) FOR UPDATE',
            { ids: [0, ...action.targets.filter(x => x.kind === 'slip').map(x => x.id)] },
            t,
          )
        const now = await loadCovered(database, line.currency, t, action.targets)
        if (now.length !== action.targets.length)
          return {
            ok: false,
            refusals: [
              {
                rule: 'bank.known',
                path: 'action.targets',
                message: 'something that was chosen is not awaited from the bank any more',
                satisfy: 'reload and choose again',
              },
            ],
          }
        return settle(
          state,
          movementOf(line, await rateFor(database, state, line, t)),
          now,
          action.restAccount,
        )
      },
      targets: () => action.targets,
    }
  }
  if (action.kind === 'ledger') {
    const accounts = new Set(
      (await select<{ number: string }>(database, 'SELECT number FROM ledger_account', {}, tx)).map(
        a => a.number,
      ),
    )
    return {
      ...common,
      customer: null,
      learn: [],
      wanted: { customerIds: [] },
      decide: async (state, t) =>
        postToLedger(
          state,
          movementOf(line, await rateFor(database, state, line, t)),
          action.account,
          accounts,
        ),
      targets: () => [],
    }
  }
  const [receipt] = await select<{ customer: string; amount: number; currency: string; number: string }>(
    database,
    `SELECT c.number AS customer, i.amount, i.currency, i.number FROM item i
      JOIN customer c ON c.id = i.customer_id WHERE i.id = :id AND i.kind IN ('receipt', 'advance')`,
    { id: action.itemId },
    tx,
  )
  if (!receipt)
    throw new ProblemError(
      422,
      'Not a receipt',
      `there is no receipt ${action.itemId}: choose what the bank sent back`,
      [{ path: 'action.itemId', message: 'no such receipt' }],
    )
  if (receipt.amount !== -line.amount || receipt.currency !== line.currency)
    throw new ProblemError(
      422,
      'Another amount',
      `${receipt.number} is of ${receipt.amount} ${receipt.currency} minor units, the bank took ${-line.amount} ${line.currency}`,
      [{ path: 'action.itemId', message: 'another amount' }],
    )
  const customer = await findCustomer(database, receipt.customer, {}, tx)
  return {
    ...common,
    customer,
    learn: [],
    wanted: { customerIds: [customer.id], linksOf: [action.itemId] },
    targets: () => [{ kind: 'return', id: action.itemId }],
    decide: async (state, t) => {
      const lines = await loadItemLines(database, action.itemId, t)
      const waits = await select<{ id: number }>(
        database,
        `SELECT m.id FROM receipt_means m WHERE m.item_id = :id AND m.account IN (:accounts) AND NOT
        EXISTS (SELECT 1 FROM slip_means sm JOIN slip s ON s.id = sm.slip_id WHERE sm.means_id = m.id
        AND s.void_entry_id IS NULL)
        AND NOT EXISTS (SELECT 1 FROM bank_match_target x JOIN bank_match b ON b.id = x.match_id
          WHERE x.kind = 'means' AND x.ref_id = m.id AND b.undone_entry_id IS NULL)`,
        { id: action.itemId, accounts: [state.chart['on-hand'], state.chart.clearing] },
        t,
      )
      if (waits.length)
        return {
          ok: false,
          refusals: [
            {
              rule: 'bank.return',
              path: 'action.itemId',
              message: `${receipt.number} was never seen at the bank, so the bank cannot send it back`,
              satisfy: 'settle it first, or choose another receipt',
            },
          ],
        }
      const rate = await rateFor(database, state, line, t)
      const money = [state.chart['on-hand'], state.chart.clearing, state.chart['petty-cash']]
      return reverse(state, {
        itemId: action.itemId,
        date: line.bookingDate,
        reason: action.reason,
        lines: lines.map(l => (money.includes(l.account) ? { ...l, account: line.account } : l)),
        fee: action.fee
          ? { amount: action.fee, baseAmount: convert(action.fee, line.currency, state.base, rate) }
          : undefined,
      })
    },
  }
}

async function chosen(
  database: Sequelize,
  id: number,
  body: z.output<typeof acceptBody>,
): Promise<{ action: ActionIn; told: string; confidence: number | null; line: LineRow }> {
  const line = await lineById(database, id)
  if (line.state !== 'open')
    throw new ProblemError(409, 'Done already', 'this line was worked meanwhile: reload to see by whom')
  if (line.version !== body.version)
    throw new ProblemError(409, 'Changed meanwhile', 'somebody else worked on this line: reload it')
  if (body.action) return { action: body.action, told: tell(body.action), confidence: null, line }
  const detail = await readLine(database, id)
  const list: LineProposal[] = [detail.proposal, ...detail.alternatives].filter(
    (p): p is LineProposal => p !== null,
  )
  const p = list[body.proposal ?? 0]
  if (!p)
    throw new ProblemError(
      422,
      'No such proposal',
      list.length ? `this line has ${list.length} proposals` : 'this line has no proposal: say what it is',
      [{ path: 'proposal', message: 'no such proposal' }],
    )
  return { action: lineAction.parse(p.action), told: withReasons(p), confidence: p.confidence, line }
}

/** What a proposal is, and why, in two sentences. */
const withReasons = (p: LineProposal): string => {
  const why = p.reasons.join('; ')
  return `${p.told}. ${why.charAt(0).toUpperCase()}${why.slice(1)}`
}
const tell = (action: ActionIn): string =>
  action.kind === 'receipt'
    ? `chosen by hand for ${action.parts.map(p => p.customer).join(', ')}`
    : action.kind === 'ledger'
      ? `to ledger account ${action.account}`
      : action.kind === 'covered'
        ? 'settles what was chosen'
        : action.reason

export async function previewLine(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: z.output<typeof acceptBody>,
): Promise<Proof> {
  const { action, told, line } = await chosen(database, id, body)
  return proofOf(database, await workOf(database, line, action, told, actor))
}

export async function acceptLine(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: z.output<typeof acceptBody>,
  idempotency?: { key: string; request: unknown },
): Promise<BankLineDetail> {
  if (!idempotency || !(await isRepeated(database, actor, idempotency.key))) {
    const { action, told, confidence, line } = await chosen(database, id, body)
    const work = await workOf(database, line, action, told, actor)
    await throughDoor(database, { ...work.wanted, personId: actor.id, idempotency }, async door => {
      const fresh = await lineById(database, id, door.tx)
      if (fresh.state !== 'open' || fresh.version !== body.version)
        throw new ProblemError(409, 'Changed meanwhile', 'somebody else worked on this line: reload it')
      await applyWork(database, door, actor, work, confidence, false)
      if (body.learn) await learn(database, actor, [work], door.tx)
      if (action.kind === 'ledger' && (action.words || action.rememberPayer)) {
        await database.query(
          `INSERT IGNORE INTO ledger_rule (iban, words, account, money_in, person_id)
            VALUES (:iban, :words, :account, :moneyIn, :by)`,
          {
            replacements: {
              iban: action.rememberPayer ? line.iban : '',
              words: action.words,
              account: action.account,
              moneyIn: line.amount > 0 ? 1 : 0,
              by: actor.id,
            },
            transaction: door.tx,
          },
        )
      }
      return null
    })
    // What was learnt may answer others that wait.
    if (line.iban || line.name)
      await proposeAgain(
        database,
        "l.state = 'open' AND ((l.iban <> '' AND l.iban = :iban) OR (l.name <> '' AND l.name = :name))",
        { iban: line.iban, name: line.name },
      )
  }
  return readLine(database, id)
}

async function isRepeated(database: Sequelize, actor: Actor, key: string): Promise<boolean> {
  return (
    (
      await select(
        database,
        'SELECT 1 AS x FROM idempotency WHERE person_id = :person AND idempotency_key = :key',
        { person: actor.id, key },
      )
    ).length > 0
  )
}

async function applyWork(
  database: Sequelize,
  door: Door,
  actor: Actor,
  work: Work,
  confidence: number | null,
  automatic: boolean,
): Promise<void> {
  const posting = posted(await work.decide(door.state, door.tx))
  const [written] = await door.write([posting])
  await bind(database, door.tx, actor, [{ work, posting, written: written!, confidence }], automatic)
}

/** Writes what lines were matched to, and marks them settled. */
async function bind(
  database: Sequelize,
  tx: Transaction,
  actor: Actor,
  done: { work: Work; posting: Posting; written: Written; confidence: number | null }[],
  automatic: boolean,
): Promise<void> {
  const ids = await insert(
    database,
    tx,
    'bank_match',
    done.map(({ work, written, confidence }) => ({
      line_id: work.line.id,
      kind: work.kind,
      entry_id: written.entryId,
      told: work.told,
      confidence,
      automatic: automatic ? 1 : 0,
      person_id: actor.id,
    })),
  )
  const targets = done.flatMap(({ work, posting, written }, i) =>
    work.targets(posting, written).map(t => ({ match_id: ids[i], kind: t.kind, ref_id: t.id })),
  )
  if (targets.length)
    await database.getQueryInterface().bulkInsert('bank_match_target', targets, { transaction: tx })
  await markMet(
    database,
    targets.flatMap(t => (t.kind === 'means' ? [t.ref_id] : [])),
    tx,
  )
  await database.query(
    `UPDATE bank_line SET state = 'settled', version = version + 1, held = '' WHERE id IN (:ids)`,
    { replacements: { ids: done.map(d => d.work.line.id) }, transaction: tx },
  )
}

/**
 * Remembers who paid for whom; rows in the order of their key, so that two who learn at once do not wait for
 * each other in a ring.
 */
async function learn(
  database: Sequelize,
  actor: Actor,
  works: readonly Work[],
  tx: Transaction,
): Promise<void> {
  const rows = works.flatMap(({ line, learn: customers }) =>
    line.iban || line.name
      ? customers.map(customer => [line.iban.replace(/\s/g, '').toUpperCase(), line.name, customer, actor.id])
      : [],
  )
  if (!rows.length) return
  rows.sort((a, b) => (String(a) < String(b) ? -1 : 1))
  await database.query(
    `INSERT INTO payer_learnt (iban, name, customer_id, person_id)
      VALUES ${rows.map(() => '(?, ?, ?, ?)').join(', ')} ON DUPLICATE KEY UPDATE times = times + 1`,
    { replacements: rows.flat(), transaction: tx },
  )
}

/** A line that somebody unmatched is not taken again without a look. */
const BY_HAND = 'unmatched by hand'

/** Proposals of lines made again and kept. */
export async function proposeAgain(
  database: Sequelize,
  where: string,
  values: Record<string, unknown> = {},
): Promise<void> {
  const rows = await loadLines(database, `${where} ORDER BY l.booking_date, l.id`, values)
  await keepProposals(database, await proposeFor(database, await readSettings(database), rows))
}

export async function keepProposals(
  database: Sequelize,
  proposed: readonly { lineId: number; proposals: LineProposal[]; confidence: number; tie: boolean }[],
  tx?: Transaction,
): Promise<void> {
  for (let at = 0; at < proposed.length; at += 500) {
    const chunk = proposed.slice(at, at + 500)
    const cases = (column: string) =>
      `${column} = CASE id ${chunk.map(() => 'WHEN ? THEN ?').join(' ')} ELSE ${column} END`
    await database.query(
      `UPDATE bank_line SET ${cases('proposals')}, ${cases('confidence')}, ${cases('tie')},
        held = IF(held = '${BY_HAND}', held, '') WHERE id IN (${chunk.map(() => '?').join(',')})
        AND state = 'open'`,
      {
        replacements: [
          ...chunk.flatMap(p => [p.lineId, JSON.stringify(p.proposals)]),
          ...chunk.flatMap(p => [p.lineId, p.confidence]),
          ...chunk.flatMap(p => [p.lineId, p.tie ? 1 : 0]),
          ...chunk.map(p => p.lineId),
        ],
        transaction: tx,
      },
    )
  }
}

const PASSAGE = 120

/** Takes clear lines by their first proposal. */
export async function applyClear(
  database: Sequelize,
  actor: Actor,
  lineIds: readonly number[],
  automatic: boolean,
  progress?: (done: number) => Promise<void>,
): Promise<{ applied: number; held: number }> {
  const { matching } = await readSettings(database)
  const clear: Said[] = []
  for (let at = 0; at < lineIds.length; at += 2000) {
    for (const line of await loadLines(
      database,
      `l.id IN (:ids) AND l.state = 'open' AND l.tie = 0 AND l.confidence >= :threshold ORDER BY l.booking_date, l.id`,
      { ids: lineIds.slice(at, at + 2000), threshold: matching.threshold },
    )) {
      const [p] = JSON.parse(line.proposals ?? '[]') as LineProposal[]
      clear.push({
        line,
        action: lineAction.parse(p!.action),
        told: withReasons(p!),
        confidence: p!.confidence,
      })
    }
  }
  return applyLines(database, actor, clear, automatic, progress)
}

/** A line with what it is said to be. */
export interface Said {
  line: LineRow
  action: ActionIn
  told: string
  confidence: number | null
}

/**
 * Posts lines in passages of some dozens: each is decided by itself; one that is refused stays open and says
 * why.
 */
export async function applyLines(
  database: Sequelize,
  actor: Actor,
  said: readonly Said[],
  automatic: boolean,
  progress?: (done: number) => Promise<void>,
): Promise<{ applied: number; held: number }> {
  let applied = 0
  let held = 0
  for (let at = 0; at < said.length; at += PASSAGE) {
    const chunk = said.slice(at, at + PASSAGE)
    const rows = chunk.map(c => c.line)
    const known = await findCustomers(database, [
      ...new Set(
        chunk.flatMap(c => (c.action.kind === 'receipt' ? c.action.parts.map(p => p.customer) : [])),
      ),
    ])
    const works = await Promise.all(
      chunk.map(c => workOf(database, c.line, c.action, c.told, actor, undefined, known)),
    )
    const confidenceOf = new Map(chunk.map(c => [c.line.id, c.confidence]))
    const wanted: Wanted = {
      customerIds: works.flatMap(w => w.wanted.customerIds),
      itemIds: works.flatMap(w => w.wanted.itemIds ?? []),
      linksOf: works.flatMap(w => w.wanted.linksOf ?? []),
    }
    const result = await throughDoor(database, { ...wanted, personId: actor.id }, async door => {
      const open = new Set(
        (
          await select<{ id: number }>(
            database,
            `SELECT id FROM bank_line WHERE id IN (:ids) AND state = 'open' FOR UPDATE`,
            { ids: [0, ...rows.map(r => r.id)] },
            door.tx,
          )
        ).map(r => r.id),
      )
      const done: { work: Work; posting: Posting; confidence: number | null }[] = []
      const refused: { id: number; why: string }[] = []
      const used = new Set<string>()
      // Each line sees what those before it left; the door keeps the state it was opened with.
      const now = { ...door.state, items: new Map(door.state.items) }
      for (const work of works.filter(w => open.has(w.line.id))) {
        const own = work.kind === 'receipt' ? narrowTo(now, work.wanted.itemIds ?? []) : now
        const decision = await work.decide(own, door.tx)
        const targets =
          work.kind === 'covered' && decision.ok
            ? work
                .targets(decision.posting, { entryId: 0, entryNumber: 0, items: [], allocations: [] })
                .map(t => `${t.kind} ${t.id}`)
            : []
        if (!decision.ok || targets.some(t => used.has(t))) {
          refused.push({
            id: work.line.id,
            why: decision.ok
              ? 'another line of this statement settles the same'
              : decision.refusals.map(r => r.message).join('; '),
          })
          continue
        }
        targets.forEach(t => used.add(t))
        for (const [id, item] of afterPosting(own, decision.posting).items) now.items.set(id, item)
        done.push({ work, posting: decision.posting, confidence: confidenceOf.get(work.line.id) ?? null })
      }
      if (done.length) {
        const written = await door.write(done.map(d => d.posting))
        await bind(
          database,
          door.tx,
          actor,
          done.map((d, i) => ({ ...d, written: written[i]! })),
          automatic,
        )
        await learn(
          database,
          actor,
          done.map(d => d.work),
          door.tx,
        )
      }
      for (const r of refused)
        await database.query('UPDATE bank_line SET held = :why WHERE id = :id', {
          replacements: { id: r.id, why: r.why.slice(0, 300) },
          transaction: door.tx,
        })
      return { applied: done.length, held: refused.length }
    })
    applied += result.applied
    held += result.held
    if (progress) await progress(Math.min(at + PASSAGE, said.length))
  }
  return { applied, held }
}

/** Every clear line at once, by somebody's word. */
export async function acceptClear(
  database: Sequelize,
  actor: Actor,
): Promise<{ applied: number; held: number }> {
  await proposeAgain(database, `l.state = 'open'`)
  const { matching } = await readSettings(database)
  const ids = (
    await select<{ id: number }>(
      database,
      `SELECT id FROM bank_line WHERE state = 'open' AND tie = 0 AND held <> :byHand
        AND confidence >= :threshold ORDER BY booking_date, id`,
      { threshold: matching.threshold, byHand: BY_HAND },
    )
  ).map(r => r.id)
  return applyClear(database, actor, ids, false)
}

/**
 * What unmatching posts: receipts of the line reversed, credits taken off it open again, other postings
 * mirrored.
 */
async function undoWork(
  database: Sequelize,
  line: LineRow,
  reason: string,
  tx?: Transaction,
): Promise<{
  matchId: number
  kind: string
  wanted: Wanted
  customer: Customer | null
  decide: (state: LedgerState, tx?: Transaction) => Promise<Decision>
  receipts: { id: number; customerId: number }[]
}> {
  const [match] = await select<{ id: number; kind: string; entryId: number }>(
    database,
    'SELECT id, kind, entry_id AS entryId FROM bank_match WHERE line_id = :id AND undone_entry_id IS NULL',
    { id: line.id },
    tx,
  )
  if (!match)
    throw new ProblemError(409, 'Not matched', 'this line is not matched: there is nothing to take back')
  if (match.kind === 'return')
    throw new ProblemError(
      409,
      'A return stays',
      'what the bank sent back cannot be taken back: enter the receipt again when the money comes',
    )
  const receipts = await select<{ id: number; customerId: number; customer: string }>(
    database,
    `SELECT i.id, i.customer_id AS customerId, c.number AS customer FROM bank_match_target t
      JOIN item i ON i.id = t.ref_id JOIN customer c ON c.id = i.customer_id WHERE t.match_id = :id
      AND t.kind = 'receipt'`,
    { id: match.id },
    tx,
  )
  const credits =
    match.kind === 'receipt'
      ? (
          await select<{ id: number }>(
            database,
            `SELECT a.id FROM allocation a JOIN item k ON k.id = a.credit_item_id WHERE a.entry_id = :entry
              AND k.entry_id <> :entry AND NOT EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id)`,
            { entry: match.entryId },
            tx,
          )
        ).map(a => a.id)
      : []
  const lines = await select<Line>(
    database,
    `SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, NULL AS item,
      NULL AS allocation FROM journal_line WHERE entry_id = :entry ORDER BY id`,
    { entry: match.entryId },
    tx,
  )
  return {
    matchId: match.id,
    kind: match.kind,
    receipts,
    wanted: {
      customerIds: receipts.map(r => r.customerId),
      linksOf: receipts.map(r => r.id),
      allocationIds: credits,
    },
    customer: receipts[0] ? await findCustomer(database, receipts[0].customer, {}, tx) : null,
    decide: async (state, t) => {
      const date = state.closedUntil && line.bookingDate <= state.closedUntil ? state.today : line.bookingDate
      if (match.kind !== 'receipt') return takeBack(state, date, `Unmatched: ${reason}`, lines)
      const postings: Posting[] = []
      let now = state
      const add = (d: Decision): Decision | null => {
        if (!d.ok) return d
        postings.push(d.posting)
        now = afterPosting(now, d.posting)
        return null
      }
      // A later link may be younger than the bank's booking: then all goes back on its day.
      const latest = [...state.allocations.values()]
        .filter(a => !a.undone && a.undoesId === null)
        .reduce((a, x) => (x.effective > a ? x.effective : a), date)
      if (credits.length) {
        const no = add(
          unallocate(now, { date: latest, allocationIds: credits, reason: `Unmatched: ${reason}` }),
        )
        if (no) return no
      }
      for (const r of receipts) {
        const no = add(
          reverse(now, {
            itemId: r.id,
            date: latest,
            reason: `Unmatched: ${reason}`,
            lines: await loadItemLines(database, r.id, t),
          }),
        )
        if (no) return no
      }
      return { ok: true, posting: mergePostings('reversal', latest, `Unmatched: ${reason}`, postings) }
    },
  }
}

export async function previewUndo(database: Sequelize, id: number, reason: string): Promise<Proof> {
  return proofOf(database, await undoWork(database, await lineById(database, id), reason))
}

export async function undoLine(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: { version: number; reason: string },
): Promise<BankLineDetail> {
  const line = await lineById(database, id)
  if (line.version !== body.version)
    throw new ProblemError(409, 'Changed meanwhile', 'somebody else worked on this line: reload it')
  const { wanted } = await undoWork(database, line, body.reason)
  await throughDoor(database, { ...wanted, personId: actor.id }, async door => {
    const fresh = await lineById(database, id, door.tx)
    if (fresh.state !== 'settled' || fresh.version !== body.version)
      throw new ProblemError(409, 'Changed meanwhile', 'somebody else worked on this line: reload it')
    const work = await undoWork(database, fresh, body.reason, door.tx)
    const [written] = await door.write([posted(await work.decide(door.state, door.tx))])
    await database.query(
      `UPDATE bank_match SET undone_entry_id = :entry, undone_reason = :reason, undone_by = :by,
        undone_at = CURRENT_TIMESTAMP(3) WHERE id = :id`,
      {
        replacements: { entry: written!.entryId, reason: body.reason, by: actor.id, id: work.matchId },
        transaction: door.tx,
      },
    )
    await markMet(
      database,
      (
        await select<{ id: number }>(
          database,
          `SELECT ref_id AS id FROM bank_match_target WHERE match_id = :id AND kind = 'means'`,
          { id: work.matchId },
          door.tx,
        )
      ).map(t => t.id),
      door.tx,
    )
    await database.query(
      `UPDATE bank_line SET state = 'open', version = version + 1, held = '${BY_HAND}' WHERE id = :id`,
      { replacements: { id }, transaction: door.tx },
    )
    // What was wrong is not remembered.
    for (const r of work.receipts) {
      await database.query(
        `UPDATE payer_learnt SET times = times - 1 WHERE customer_id = :customer AND iban = :iban
          AND name = :name`,
        {
          replacements: {
            customer: r.customerId,
            iban: line.iban.replace(/\s/g, '').toUpperCase(),
            name: line.name,
          },
          transaction: door.tx,
        },
      )
    }
    await database.query('DELETE FROM payer_learnt WHERE times <= 0', { transaction: door.tx })
    return null
  })
  return readLine(database, id)
}
