import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import { dayNumber, daysBetween } from '../../../core/calendar'
import { OUTCOMES, whyCall, type CallList, type CallRow } from '../../../core/callList'
import { HOLD_CAUSES, type HoldCause } from '../../../core/exposure'
import { toMajor } from '../../../core/money'
import type { callList as operations, CallListAnswer, CallListRow } from '../../../contract/callList'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { answer, askImage, slicesOf, type Wanted } from '../../image'
import type { CallsQuestion } from '../../image/questions'
import { ProblemError } from '../common/problems'
import { decodeCursor, encodeCursor } from '../common/paging'
import type { Actor, Scope } from '../people/scope'
import { callFacts, disputedAmounts, promisedItemIds, REACHED } from './facts'

interface Whose {
  id: number
  email: string
  name: string
  away: boolean
}

const peopleWithAccountsRow = z.object({
  id: cell.whole,
  email: cell.text,
  name: cell.text,
  accounts: cell.whole,
})

/** People who look after customers. */
async function peopleWithAccounts(database: Handle) {
  return database.rows(
    peopleWithAccountsRow,
    `SELECT p.id, p.email, p.name, COUNT(c.id) AS accounts FROM person p JOIN customer c ON c.controller_id = p.id
      WHERE c.merged_into IS NULL GROUP BY p.id ORDER BY p.name`,
  )
}

/** Whose list it is: one's own and those of colleagues who are away; empty for everybody's. */
async function whoseLists(
  database: Handle,
  actor: Actor,
  of: string | undefined,
  today: string,
  people: readonly { id: number; email: string; name: string }[],
): Promise<Whose[]> {
  if (of === 'all') return []
  if (of !== undefined) {
    const found = people.find(p => p.email === of)
    if (!found)
      throw new ProblemError(404, 'Nobody', `nobody with the address ${of} looks after customers`, [
        { path: 'of', message: 'nobody', satisfy: 'choose one of the people of the answer' },
      ])
    return [{ ...found, away: false }]
  }
  const absent = await database.find(
    'deputy',
    { deputy_id: actor.id, from_date: { [Op.lte]: today }, until_date: { [Op.gte]: today } },
    { columns: { id: 'absent_id' } },
  )
  const away = new Set(absent.map(a => a.id))
  return people
    .filter(p => p.id === actor.id || away.has(p.id))
    .map(p => ({ id: p.id, email: p.email, name: p.name, away: away.has(p.id) }))
}

async function wantedOf(database: Handle, whose: readonly Whose[], scope: Scope): Promise<Wanted> {
  if (!whose.length) return { ids: null, salesId: scope.salesId }
  const rows = await database.find(
    'customer',
    { controller_id: whose.map(w => w.id), merged_into: null },
    { columns: ['id'] },
  )
  return { ids: rows.map(r => r.id), salesId: scope.salesId }
}

/** Without the ledger in memory: from slices of the tables, the best of all. */
async function fromSlices(database: Handle, question: CallsQuestion): Promise<CallList> {
  let all: CallList | null = null
  const { offset, limit } = question
  for await (const books of slicesOf(database, question.wanted)) {
    const own = { ...question.wanted, ids: [...books.ids] }
    const list = answer(books, 'calls', { ...question, wanted: own, offset: 0, limit: offset + limit })
    all = all === null ? list : together(all, list)
  }
  const found = all ?? answerNothing()
  found.rows.sort((a, b) => b.worth - a.worth || a.customerId - b.customerId)
  return { ...found, rows: found.rows.slice(offset, offset + limit + 1) }
}

function together(a: CallList, b: CallList): CallList {
  for (const name of Object.keys(a.totals) as (keyof CallList['totals'])[]) a.totals[name] += b.totals[name]
  for (const why of Object.keys(a.leftOut) as (keyof CallList['leftOut'])[]) {
    a.leftOut[why].count += b.leftOut[why].count
    a.leftOut[why].overdue += b.leftOut[why].overdue
  }
  return { ...a, rows: [...a.rows, ...b.rows] }
}

const none = () => ({ count: 0, overdue: 0 })
const answerNothing = (): CallList => ({
  rows: [],
  totals: { count: 0, overdue: 0, late: 0, worth: 0, followUps: 0 },
  leftOut: {
    called: none(),
    later: none(),
    promised: none(),
    disputed: none(),
    paused: none(),
    usual: none(),
  },
})

const detailRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  contact: cell.text,
  phone: cell.text,
  email: cell.text,
  currency: cell.text,
  controller: cell.text.nullable(),
  usual: cell.whole.nullable(),
  payDay: cell.whole.nullable(),
  calledOn: cell.text.nullable(),
  outcome: z.enum(['disputed', 'promised', 'reached', 'not-reached', 'wrong-contact', 'copies']).nullable(),
  calledBy: cell.text.nullable(),
  calledText: cell.text.nullable(),
  nextOn: cell.text.nullable(),
  missed: cell.whole,
  remindedOn: cell.text.nullable(),
  level: cell.whole.nullable(),
  brokenAmount: cell.whole.nullable(),
  brokenCurrency: cell.text.nullable(),
  brokenDate: cell.text.nullable(),
  held: cell.text.nullable(),
})
type Detail = z.output<typeof detailRow>

/** What is told of the accounts of a page. The contact to ring about money comes before the main one. */
async function detailsOf(
  database: Handle,
  today: string,
  ids: readonly number[],
): Promise<Map<number, Detail>> {
  if (!ids.length) return new Map()
  const contact = (column: string) =>
    `COALESCE((SELECT t.${column === 'contact' ? 'name' : column} FROM contact t WHERE t.customer_id = c.id AND t.money = 1
      ORDER BY t.id LIMIT 1), c.${column})`
  const broken = `FROM promise m JOIN promise_part p ON p.promise_id = m.id WHERE m.customer_id = c.id
    AND m.withdrawn_on IS NULL AND p.state IN ('broken', 'partly') AND p.until < :today
    AND p.until >= DATE_SUB(:today, INTERVAL 60 DAY) ORDER BY p.until DESC, m.id DESC LIMIT 1`
  const rows = await database.rows(
    detailRow,
    `SELECT c.id, c.number, c.name, ${contact('contact')} AS contact, ${contact('phone')} AS phone,
      ${contact('email')} AS email, c.currency, k.name AS controller, s.usual_late AS \`usual\`, s.pay_day AS payDay,
      l.on_date AS calledOn, l.outcome, b.name AS calledBy, l.text AS calledText, l.next_date AS nextOn,
      (SELECT COUNT(*) FROM call_log x WHERE x.customer_id = c.id AND x.outcome NOT IN (${REACHED})
        AND x.id > COALESCE((SELECT MAX(y.id) FROM call_log y WHERE y.customer_id = c.id
          AND y.outcome IN (${REACHED})), 0)) AS missed,
      (SELECT MAX(n.on_date) FROM live_notice n WHERE n.customer_id = c.id) AS remindedOn,
      (SELECT MAX(ni.level) FROM live_notice n JOIN notice_item ni ON ni.notice_id = n.id
        JOIN open_item o ON o.item_id = ni.item_id WHERE n.customer_id = c.id) AS level,
      (SELECT p.amount - p.paid ${broken}) AS brokenAmount, (SELECT m.currency ${broken}) AS brokenCurrency,
      (SELECT p.date ${broken}) AS brokenDate,
      (SELECT h.cause FROM hold h WHERE h.customer_id = c.id AND h.ended_at IS NULL ORDER BY h.id LIMIT 1) AS held
      FROM customer c LEFT JOIN person k ON k.id = c.controller_id LEFT JOIN review_score s ON s.customer_id = c.id
      LEFT JOIN call_log l ON l.id = (SELECT MAX(z.id) FROM call_log z WHERE z.customer_id = c.id)
      LEFT JOIN person b ON b.id = l.person_id WHERE c.id IN (:ids)`,
    { ids, today },
  )
  return new Map(rows.map(r => [r.id, r]))
}

/** Without its cents: a reason is read at a glance. */
const wholeUnits = (amount: number, currency: string): string =>
  String(Math.round(Number(toMajor(amount, currency))))

function shown(row: CallRow, detail: Detail, { base, today }: Settings): CallListRow {
  const { outcome, calledOn, remindedOn } = detail
  const why = whyCall(row, {
    money: amount => `${wholeUnits(amount, base)} ${base}`,
    day: date => date,
    usual: detail.usual,
    payDay: detail.payDay,
    calledOn,
    outcome: outcome && OUTCOMES[outcome].label,
    calledDaysAgo: calledOn === null ? null : daysBetween(calledOn, today),
    remindedDaysAgo: remindedOn === null ? null : daysBetween(remindedOn, today),
    level: detail.level ?? 0,
    broken:
      detail.brokenDate === null
        ? null
        : {
            amount: `${toMajor(detail.brokenAmount!, detail.brokenCurrency!)} ${detail.brokenCurrency}`,
            date: detail.brokenDate,
          },
    held: detail.held && HOLD_CAUSES[detail.held as HoldCause],
    nextOn: detail.nextOn,
    missed: detail.missed,
  })
  return {
    customer: { number: detail.number, name: detail.name },
    contact: detail.contact,
    phone: detail.phone,
    email: detail.email,
    currency: detail.currency,
    controller: detail.controller ?? '',
    overdue: row.overdue,
    late: row.late,
    chance: Math.round(row.chance * 100),
    worth: row.worth,
    oldest: row.oldest,
    followUp: row.followUp,
    last:
      calledOn === null
        ? null
        : {
            on: calledOn,
            outcome: outcome!,
            label: OUTCOMES[outcome!].label,
            by: detail.calledBy ?? '',
            text: detail.calledText ?? '',
          },
    why,
  }
}

const doneTodayRow = z.object({
  calls: cell.whole,
  reached: cell.sum,
  promised: cell.sum,
})

/** What whoever asks did today. */
async function doneToday(database: Handle, actor: Actor, today: string): Promise<CallListAnswer['done']> {
  const [row] = await database.rows(
    doneTodayRow,
    `SELECT COUNT(*) AS calls, SUM(l.outcome IN (${REACHED})) AS reached,
      SUM((SELECT SUM(p.amount) FROM promise_part p JOIN promise m ON m.id = p.promise_id
        JOIN customer c ON c.id = m.customer_id WHERE p.promise_id = l.promise_id)) AS promised
      FROM call_log l WHERE l.person_id = :id AND l.on_date = :today`,
    { id: actor.id, today },
  )
  return { calls: row!.calls, reached: Number(row!.reached ?? 0), promised: Number(row!.promised ?? 0) }
}

/** The call list of today. */
export async function readCallList(
  database: Handle,
  actor: Actor,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
): Promise<CallListAnswer> {
  const settings = await readSettings(database)
  const { today, base } = settings
  const people = await peopleWithAccounts(database)
  const whose = await whoseLists(database, actor, q.of, today, people)
  const offset = Number(decodeCursor(q.cursor, 1)?.[0] ?? 0)
  const [wanted, facts, promised, disputed] = await Promise.all([
    wantedOf(database, whose, scope),
    callFacts(database, settings),
    promisedItemIds(database, settings),
    disputedAmounts(database),
  ])
  const question: CallsQuestion = {
    day: dayNumber(today),
    wanted,
    facts,
    promised,
    disputed,
    onlyFollowUps: q.only === 'followUps',
    limit: q.limit,
    offset,
  }
  const found =
    (await askImage(database, 'calls', question, 'waits')) ?? (await fromSlices(database, question))
  const rows = found.rows.slice(0, q.limit)
  const [details, done] = await Promise.all([
    detailsOf(
      database,
      today,
      rows.map(r => r.customerId),
    ),
    doneToday(database, actor, today),
  ])
  return {
    base,
    date: today,
    whose: whose.map(({ email, name, away }) => ({ email, name, away })),
    people: people.map(({ email, name, accounts }) => ({ email, name, accounts })),
    items: rows.map(row => shown(row, details.get(row.customerId)!, settings)),
    totals: found.totals,
    leftOut: found.leftOut,
    done,
    next: found.rows.length > q.limit ? encodeCursor([offset + q.limit]) : null,
  }
}
