import { randomUUID } from 'node:crypto'
import type { Sequelize, Transaction } from 'sequelize'
import { age } from '../../../core/aging'
import { isIsoDate, type IsoDate } from '../../../core/calendar'
import { postDocument } from '../../../core/documents'
import { type Posting } from '../../../core/ledger'
import { convert } from '../../../core/money'
import { propose, type LeftOut, type Notice, type ReminderCustomer } from '../../../core/reminders'
import type { PolicyForm, ProposedNotice, Run } from '../../../contract/reminders'
import { int, select } from '../../db/connection'
import { readSettings, type Settings } from '../../db/settings'
import { openAsOfSql } from '../../ledger/asOf'
import { posted, throughDoor } from '../../ledger/door'
import { takeNumbers } from '../../ledger/write'
import { reminderPdf, type ReminderLetter } from '../../letters/reminder'
import { fillText, formatDate, formatMoney } from '../../letters/text'
import { deductionsOf } from '../disputes/deductions'
import { cut, decodeCursor } from '../common/paging'
import { readPolicy } from './policies'
import { notFound, ProblemError } from '../common/problems'
import { rateCache } from '../rates/rates'
import { findCustomer, type Actor } from '../people/scope'

type CustomerRow = {
  id: number
  number: string
  name: string
  email: string
  contact: string
  country: string
  language: string
}

/** All that the proposal needs of the customers under a policy who have something overdue. */
async function reminderCustomers(
  database: Sequelize,
  settings: Settings,
  policy: string,
  asOf: IsoDate,
  only: number[] | null,
  tx?: Transaction,
): Promise<(ReminderCustomer & CustomerRow)[]> {
  const values = { asOf, today: settings.today, policy, only: only ?? [0] }
  const rows = await select<
    CustomerRow & {
      itemId: number
      itemNumber: string
      part: number
      kind: string
      currency: string
      dueDate: string
      open: unknown
      level: unknown
      noticeDate: string | null
    }
  >(
    database,
    `
    SELECT c.id, c.number, c.name, c.email, c.contact, c.country, c.language, i.id AS itemId,
      i.number AS itemNumber, i.part, i.kind, s.currency, s.due_date AS dueDate, s.open, l.level, l.noticeDate
    FROM ${openAsOfSql(asOf, settings.today)} s JOIN customer c ON c.id = s.customer_id
      JOIN item i ON i.id = s.item_id LEFT JOIN customer_class k ON k.code = c.class
      LEFT JOIN (SELECT ni.item_id, MAX(ni.level) AS level, MAX(n.on_date) AS noticeDate FROM notice_item ni
      JOIN notice n ON n.id = ni.notice_id GROUP BY ni.item_id) l ON l.item_id = s.item_id
    WHERE COALESCE(NULLIF(c.policy, ''), NULLIF(k.policy, ''),
      'standard') = :policy ${only ? 'AND c.id IN (:only)' : ''}
      AND c.id IN (SELECT customer_id FROM open_item WHERE open > 0 AND due_date < :asOf)
    ORDER BY c.number, s.due_date, i.id`,
    values,
    tx,
  )
  const pauses = await select<{ customerId: number; itemId: number | null; reason: string; until: string }>(
    database,
    `SELECT customer_id AS customerId, item_id AS itemId, reason, until_date AS until FROM pause
      WHERE ended = 0 AND until_date >= :asOf`,
    values,
    tx,
  )
  const deductions = await deductionsOf(
    database,
    rows.map(r => r.itemId),
    tx,
  )
  const customers = new Map<number, ReminderCustomer & CustomerRow>()
  for (const { itemId, itemNumber, part, kind, currency, dueDate, open, level, noticeDate, ...c } of rows) {
    const customer = customers.get(c.id) ?? {
      ...c,
      pause: pauses.find(p => p.customerId === c.id && p.itemId === null) ?? null,
      items: [],
    }
    customer.items.push({
      id: itemId,
      number: itemNumber,
      part,
      currency,
      dueDate,
      open: int(open),
      level: int(level),
      noticeDate,
      isFee: kind === 'fee' || kind === 'charge',
      pause: pauses.find(p => p.itemId === itemId) ?? null,
      disputed: deductions.get(itemId)?.reason.replace('-', ' ') ?? null,
    })
    customers.set(c.id, customer)
  }
  return [...customers.values()]
}

interface Proposal {
  notices: Notice[]
  leftOut: LeftOut[]
}

async function makeProposal(
  database: Sequelize,
  settings: Settings,
  policy: PolicyForm,
  asOf: IsoDate,
  only: number[] | null,
  tx?: Transaction,
) {
  const customers = await reminderCustomers(database, settings, policy.code, asOf, only, tx)
  const proposal: Proposal = { notices: [], leftOut: [] }
  for (const customer of customers) {
    const part = propose(customer, policy.levels, asOf)
    proposal.notices.push(...part.notices)
    proposal.leftOut.push(...part.leftOut)
  }
  return { customers, proposal }
}

export async function proposeRun(
  database: Sequelize,
  actor: Actor,
  body: { asOf: string; policy: string; customer?: string },
): Promise<Run> {
  const settings = await readSettings(database)
  if (!isIsoDate(body.asOf) || body.asOf > settings.today) {
    throw new ProblemError(
      422,
      'Not a date for a run',
      `a run is made as of today, ${settings.today}, or earlier`,
      [{ path: 'asOf', message: `${settings.today} or earlier` }],
    )
  }
  const policy = await readPolicy(database, body.policy)
  const only = body.customer ? [(await findCustomer(database, body.customer, {})).id] : null
  const { proposal } = await makeProposal(database, settings, policy, body.asOf, only)
  const id = int(
    await database.getQueryInterface().bulkInsert('reminder_run', [
      {
        as_of: body.asOf,
        policy: policy.code,
        state: 'proposed',
        proposal: JSON.stringify({ ...proposal, only }),
        person_id: actor.id,
      },
    ]),
  )
  return readRun(database, id)
}

interface RunRow {
  id: number
  asOf: string
  policy: string
  state: Run['state']
  version: number
  proposal: string
  by: string
  at: string
  confirmedBy: string | null
}

async function runRow(
  database: Sequelize,
  id: number,
  tx?: Transaction,
  lock = '',
): Promise<RunRow & { parsed: Proposal & { only: number[] | null; excluded?: string[] } }> {
  const [row] = await select<RunRow>(
    database,
    `
    SELECT r.id, r.as_of AS asOf, r.policy, r.state, r.version, r.proposal, p.name AS \`by\`, r.at,
      q.name AS confirmedBy
    FROM reminder_run r JOIN person p ON p.id = r.person_id LEFT JOIN person q ON q.id = r.confirmed_by
      WHERE r.id = :id ${lock}`,
    { id },
    tx,
  )
  if (!row) throw notFound(`reminder run ${id}`)
  return {
    ...row,
    parsed: JSON.parse(row.proposal) as Proposal & { only: number[] | null; excluded?: string[] },
  }
}

export async function readRun(database: Sequelize, id: number): Promise<Run> {
  const settings = await readSettings(database)
  const { proposal: _, parsed, ...row } = await runRow(database, id)
  const rate = rateCache(database, settings.base)
  const inBase = async (amount: number, currency: string) =>
    convert(amount, currency, settings.base, (await rate(currency, row.asOf)) ?? '0')
  const excluded = new Set(parsed.excluded ?? [])
  const notices = parsed.notices.map((n): ProposedNotice => ({ ...n, included: !excluded.has(n.key) }))
  let overdue = 0
  let fees = 0
  let leftOut = 0
  for (const n of notices.filter(n => n.included)) {
    overdue += await inBase(n.total, n.currency)
    fees += await inBase(n.fee, n.currency)
  }
  for (const l of parsed.leftOut) leftOut += await inBase(l.open, l.currency)
  const sent = await select<{ id: number; number: string; customer: string; currency: string }>(
    database,
    `SELECT n.id, n.number, c.number AS customer, n.currency FROM notice n
      JOIN customer c ON c.id = n.customer_id WHERE n.run_id = :id ORDER BY n.id`,
    { id },
  )
  return {
    ...row,
    notices,
    leftOut: parsed.leftOut,
    totals: { notices: notices.filter(n => n.included).length, base: settings.base, overdue, fees, leftOut },
    sent: sent.map(({ currency, ...n }) => ({ ...n, key: `${n.customer} ${currency}` })),
  }
}

export async function listRuns(database: Sequelize, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await select<{
    id: number
    asOf: string
    policy: string
    state: string
    notices: unknown
    at: string
    by: string
  }>(
    database,
    `
    SELECT r.id, r.as_of AS asOf, r.policy, r.state, IF(r.state = 'confirmed', (SELECT COUNT(*) FROM notice n
      WHERE n.run_id = r.id), JSON_LENGTH(r.proposal, '$.notices')) AS notices, r.at, p.name AS \`by\`
    FROM reminder_run r JOIN person p ON p.id = r.person_id ${cursor ? 'WHERE r.id < :lastId' : ''}
      ORDER BY r.id DESC LIMIT ${q.limit + 1}`,
    { lastId: cursor?.[0] ?? 0 },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(r => ({ ...r, notices: int(r.notices) })), next: page.next }
}

/**
 * The letter of a notice: everything the PDF shows, kept with the notice so that it can be shown again as it
 * was sent.
 */
async function letterOf(
  settings: Settings,
  customer: ReminderCustomer & CustomerRow,
  notice: Notice,
  policy: PolicyForm,
  number: string,
  asOf: IsoDate,
): Promise<ReminderLetter> {
  const texts = policy.levels[notice.level - 1]!.texts
  const language = texts[customer.language] ? customer.language : 'en'
  const text = await fillText(texts[language]!, {
    company: settings.company,
    customer: customer.name,
    contact: customer.contact,
    number,
    level: notice.level,
    total: formatMoney(notice.total + notice.fee, notice.currency, language),
    fee: formatMoney(notice.fee, notice.currency, language),
    has_fee: notice.fee > 0,
    date: formatDate(asOf, language),
    deadline: formatDate(notice.deadline, language),
    items: notice.items.length,
  })
  const aged = age(
    customer.items.filter(i => i.currency === notice.currency).map(i => ({ open: i.open, date: i.dueDate })),
    asOf,
    settings.buckets,
  )
  return {
    company: settings.company,
    customer: {
      name: customer.name,
      number: customer.number,
      contact: customer.contact,
      country: customer.country,
    },
    language,
    number,
    date: asOf,
    text,
    notice,
    strata: aged.amounts,
    bucketLabels: settings.buckets.map(b => b.label),
  }
}

export async function previewLetter(database: Sequelize, id: number, key: string): Promise<Buffer> {
  const settings = await readSettings(database)
  const run = await runRow(database, id)
  const notice = run.parsed.notices.find(n => n.key === key)
  if (!notice) throw notFound(`notice ${key} in run ${id}`)
  const policy = await readPolicy(database, run.policy)
  const { id: customerId } = await findCustomer(database, notice.customer.number, {})
  const [customer] = await reminderCustomers(database, settings, run.policy, run.asOf, [customerId])
  if (!customer)
    throw new ProblemError(
      409,
      'Paid meanwhile',
      'this customer has nothing overdue any more: propose the run again',
    )
  return reminderPdf(await letterOf(settings, customer, notice, policy, 'preview', run.asOf))
}

export async function noticeLetter(
  database: Sequelize,
  id: number,
  salesId?: number,
): Promise<{ number: string; pdf: Buffer }> {
  const [row] = await select<{ number: string; letter: string }>(
    database,
    `SELECT n.number, n.letter FROM notice n JOIN customer c ON c.id = n.customer_id
      WHERE n.id = :id ${salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: salesId ?? 0 },
  )
  if (!row) throw notFound(`notice ${id}`)
  return { number: row.number, pdf: await reminderPdf(JSON.parse(row.letter) as ReminderLetter) }
}

const sameNotice = (a: Notice, b: Notice | undefined) =>
  b !== undefined && JSON.stringify(a) === JSON.stringify(b)

/**
 * Confirms a run in one transaction: fee documents, notices, levels, e-mails queued. Confirmed before:
 * answers the same run. The proposal is made again under lock; what was paid, paused or reminded meanwhile
 * refuses the confirmation.
 */
export async function confirmRun(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: { version: number; exclude: string[] },
): Promise<Run> {
  const { parsed } = await runRow(database, id)
  const exclude = new Set(body.exclude)
  const chosen = parsed.notices.filter(n => !exclude.has(n.key))
  const numbers = [...new Set(chosen.map(n => n.customer.number))]
  const ids = numbers.length
    ? (
        await select<{ id: number }>(database, 'SELECT id FROM customer WHERE number IN (:numbers)', {
          numbers,
        })
      ).map(c => c.id)
    : []
  await throughDoor(database, { customerIds: ids, personId: actor.id }, async door => {
    const { tx } = door
    const run = await runRow(database, id, tx, 'FOR UPDATE')
    if (run.state === 'confirmed') return null
    if (run.state !== 'proposed')
      throw new ProblemError(409, 'Not open', `this run was ${run.state}: propose a new one`)
    if (run.version !== body.version)
      throw new ProblemError(409, 'Changed meanwhile', 'someone else changed this run: reload it')
    if (!chosen.length)
      throw new ProblemError(422, 'Nothing to send', 'every notice is left out: include at least one', [
        { path: 'exclude', message: 'include at least one notice' },
      ])
    const settings = await readSettings(database, tx)
    const policy = await readPolicy(database, run.policy, tx)
    const now = await makeProposal(database, settings, policy, run.asOf, ids, tx)
    const byKey = new Map(now.proposal.notices.map(n => [n.key, n]))
    const changed = chosen.filter(n => !sameNotice(n, byKey.get(n.key)))
    if (changed.length) {
      throw new ProblemError(
        409,
        'The ledger has moved on',
        `${changed.length} of these accounts changed since the proposal, the first is ${changed[0]!.customer.name}: propose the run again`,
        changed.map(n => ({
          path: n.key,
          message: `${n.customer.name} was paid, paused or reminded meanwhile`,
        })),
      )
    }
    await sendNotices(door, database, actor, {
      id,
      asOf: run.asOf,
      policy,
      settings,
      notices: chosen,
      customers: new Map(now.customers.map(c => [c.number, c])),
    })
    await database.query(
      `UPDATE reminder_run SET state = 'confirmed', version = version + 1, confirmed_by = :by,
        confirmed_at = UTC_TIMESTAMP(3), proposal = :proposal WHERE id = :id`,
      {
        replacements: { id, by: actor.id, proposal: JSON.stringify({ ...parsed, excluded: body.exclude }) },
        transaction: tx,
      },
    )
    return null
  })
  return readRun(database, id)
}

interface Sending {
  id: number
  asOf: IsoDate
  policy: PolicyForm
  settings: Settings
  notices: Notice[]
  customers: Map<string, ReminderCustomer & CustomerRow>
}

async function sendNotices(
  door: Parameters<Parameters<typeof throughDoor>[2]>[0],
  database: Sequelize,
  actor: Actor,
  sending: Sending,
): Promise<void> {
  const { tx } = door
  const { notices, asOf, settings } = sending
  const rate = rateCache(database, settings.base, tx)
  const number = await takeNumbers(database, tx, 'notice', notices.length)
  const fees: Posting[] = []
  for (const [i, notice] of notices.entries()) {
    if (!notice.fee) continue
    fees.push(
      posted(
        postDocument(door.state, {
          customerId: sending.customers.get(notice.customer.number)!.id,
          kind: 'fee',
          number: '',
          series: 'fee',
          currency: notice.currency,
          amount: notice.fee,
          tax: 0,
          documentDate: asOf,
          parts: [{ dueDate: notice.deadline, amount: notice.fee }],
          discounts: [],
          rate: (await rate(notice.currency, asOf)) ?? '1',
          order: '',
          text: `Reminder fee, level ${notice.level}, ${number(i)}`,
        }),
      ),
    )
  }
  const written = await door.write(fees)
  let fee = 0
  const query = database.getQueryInterface()
  for (const [i, notice] of notices.entries()) {
    const customer = sending.customers.get(notice.customer.number)!
    const letter = await letterOf(settings, customer, notice, sending.policy, number(i), asOf)
    const noticeId = int(
      await query.bulkInsert(
        'notice',
        [
          {
            number: number(i),
            run_id: sending.id,
            customer_id: customer.id,
            level: notice.level,
            on_date: asOf,
            deadline: notice.deadline,
            currency: notice.currency,
            total: notice.total,
            fee: notice.fee,
            fee_item_id: notice.fee ? written[fee++]!.items[0]!.id : null,
            channel: notice.channel,
            letter: JSON.stringify(letter),
          },
        ],
        { transaction: tx },
      ),
    )
    await query.bulkInsert(
      'notice_item',
      notice.items.map(item => ({
        notice_id: noticeId,
        item_id: item.id,
        level: item.level,
        open: item.open,
      })),
      { transaction: tx },
    )
    await query.bulkInsert(
      'outbox',
      [
        {
          notice_id: noticeId,
          customer_id: customer.id,
          recipient: notice.recipient,
          subject: letter.text.subject,
          text: letter.text.body,
          message_id: `${randomUUID()}@bilancio`,
          state: notice.channel === 'email' ? 'queued' : 'print',
          person_id: actor.id,
        },
      ],
      { transaction: tx },
    )
  }
}

export async function discardRun(database: Sequelize, id: number): Promise<Run> {
  const run = await runRow(database, id)
  if (run.state === 'confirmed')
    throw new ProblemError(
      409,
      'Sent already',
      'this run was confirmed, its notices are out: it cannot be discarded',
    )
  await database.query(
    `UPDATE reminder_run SET state = 'discarded', version = version + 1 WHERE id = :id AND state = 'proposed'`,
    { replacements: { id } },
  )
  return readRun(database, id)
}

export async function addPause(
  database: Sequelize,
  actor: Actor,
  body: { customer: string; itemId?: number; reason: string; until: string },
): Promise<{ id: number }> {
  const settings = await readSettings(database)
  const customer = await findCustomer(database, body.customer, {})
  if (body.until < settings.today)
    throw new ProblemError(422, 'Ends in the past', `a pause ends today, ${settings.today}, or later`, [
      { path: 'until', message: `${settings.today} or later` },
    ])
  if (body.itemId) {
    const [item] = await select(database, 'SELECT id FROM item WHERE id = :itemId AND customer_id = :id', {
      itemId: body.itemId,
      id: customer.id,
    })
    if (!item) throw notFound(`item ${body.itemId} of customer ${customer.number}`)
  }
  return {
    id: int(
      await database.getQueryInterface().bulkInsert('pause', [
        {
          customer_id: customer.id,
          item_id: body.itemId ?? null,
          reason: body.reason,
          until_date: body.until,
          person_id: actor.id,
        },
      ]),
    ),
  }
}

export async function endPause(database: Sequelize, id: number): Promise<void> {
  const [row] = await select(database, 'SELECT id FROM pause WHERE id = :id', { id })
  if (!row) throw notFound(`pause ${id}`)
  await database.query('UPDATE pause SET ended = 1 WHERE id = :id', { replacements: { id } })
}
