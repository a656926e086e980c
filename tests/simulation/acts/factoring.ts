import type { AnswerKind, AnswerLine } from '../../../core/factoring'
import { answerCommand } from '../../../server/services/factoring/answers'
import { offerCommand } from '../../../server/services/factoring/offer'
import type { Model, ModelItem, ModelOffered } from '../model'
import { amountOf, anyone, CUSTOMERS, openItems, ordered, pick, TODAY, type Act, type World } from './world'

/** Two factors: of one the loss stays ours, so that its invoices stay until their debtors have paid. */
export const FACTORS = [
  { code: 'TERN', recourse: false, accounts: { current: '1310', commission: '6910', interest: '6930' } },
  { code: 'GULL', recourse: true, accounts: { current: '1311', commission: '6911', interest: '6931' } },
]

/** Invoices are offered to a factor; now and then such as lie with one already. */
export function offer(w: World): Act | null {
  const { code, recourse } = w.chance.pick(FACTORS)
  const all = CUSTOMERS.flatMap(c => openItems(w, 'debit', c, 'EUR')).filter(i => i.kind === 'document')
  const held = w.chance.happens(0.25) ? all.filter(i => w.model.heldBy(i.id)) : all
  const chosen = [...new Set([pick(w, held), pick(w, all)])].filter((i): i is ModelItem => i !== undefined)
  if (!chosen.length) return null
  const ask = { facility: code, currency: 'EUR', itemIds: chosen.map(i => i.id) }
  const actor = anyone(w)
  return {
    told: `offer ${JSON.stringify(ask)}`,
    run: async db => {
      const { result } = await ordered(w, db, actor, offerCommand, ask)
      const { id: scheduleId, number: schedule } = result as { id: number; number: string }
      const rows = await db.select<{ id: number; item: number; number: string; amount: number }>(
        `SELECT t.id, t.item_id AS item, i.number, t.amount FROM factor_item t JOIN item i ON i.id = t.item_id
          WHERE t.schedule_id = :scheduleId`,
        { scheduleId },
      )
      return {
        order: 0,
        apply: m => {
          for (const r of rows)
            m.offered.set(r.id, { ...r, schedule, recourse, collected: 0, closed: 0, state: 'sent' })
        },
      }
    },
  }
}

const KINDS: Record<ModelOffered['state'], AnswerKind[]> = {
  sent: ['accepted', 'accepted', 'accepted', 'refused'],
  accepted: ['collected', 'collected', 'recourse', 'advance', 'commission'],
  collected: ['commission', 'interest'],
  gone: ['accepted', 'collected', 'recourse'],
}

/** A factor tells something of an invoice; now and then what it told before. */
export function factorAnswers(w: World): Act | null {
  const offered = pick(
    w,
    [...w.model.offered.values()].filter(o => o.state !== 'gone' || w.chance.happens(0.03)),
  )
  if (!offered) return null
  const { state: before } = offered
  const kind = w.chance.pick(KINDS[before])
  const amount = {
    collected: () => amountOf(w, Math.max(1, offered.amount - offered.collected)),
    advance: () => Math.max(1, Math.floor(offered.amount * 0.8)),
    commission: () => w.chance.whole(1, 900),
    interest: () => w.chance.whole(1, 300),
  }[kind as string]
  const line: AnswerLine = {
    kind,
    schedule: offered.schedule,
    invoice: kind === 'advance' ? '' : offered.number,
    date: TODAY,
    currency: 'EUR',
    amount: amount?.() ?? 0,
    settlement: '',
    text: '',
  }
  const hash = w.chance.whole(0, 1e12).toString(16).padStart(64, '0')
  const facility = FACTORS.find(f => f.recourse === offered.recourse)!.code
  const ask = { facility, name: `${hash}.csv`, hash, lines: [line] }
  const actor = anyone(w)
  return {
    told: `factor ${kind} ${JSON.stringify(line)}`,
    run: async db => {
      const { order } = await ordered(w, db, actor, answerCommand, ask)
      return { order, apply: m => became(m, m.offered.get(offered.id)!, kind, line.amount, before) }
    },
  }
}

/**
 * What an answer means for the invoice: whether it is open with us. Answers that post nothing have no order
 * among those of one moment: `before` is what it was when they began.
 */
function became(
  m: Model,
  o: ModelOffered,
  kind: AnswerKind,
  amount: number,
  before: ModelOffered['state'],
): void {
  const leaves = (part: number): void => {
    m.take(o.item, part)
    o.closed += part
  }
  if (kind === 'accepted') {
    if (before !== 'sent') throw new Error(`${o.number} was accepted though it was ${before}`)
    // Taken and given back in one moment.
    if (o.state === 'gone' && o.recourse) return
    o.state = 'accepted'
    if (!o.recourse) leaves(o.amount)
  } else if (kind === 'refused' || kind === 'recourse') {
    if (o.state === 'gone') throw new Error(`${o.number} came back twice`)
    o.state = 'gone'
    // With recourse what the debtor paid of it stays paid.
    if (!o.recourse) leaves(-o.closed)
  } else if (kind === 'collected') {
    o.collected += amount
    if (o.collected > o.amount) throw new Error(`more than ${o.amount} of ${o.number} was collected`)
    if (o.collected === o.amount) o.state = 'collected'
    if (o.recourse) leaves(amount)
  }
}
