import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { addDays, daysBetween, isBankWorkingDay, type IsoDate } from '../core/calendar'
import { advanceOn, commissionOf, interestOn, type AnswerLine, type Facility } from '../core/factoring'
import { split } from '../core/money'
import { readSchedule, writeAnswerFile, type Offered } from '../formats/factoring'
import { chance } from './chance'

/** One invoice in so many a factor does not take. */
const REFUSED = 0.06
/** One debtor in so many does not pay it, and the invoice comes back. */
const NEVER_PAID = 0.04

type Terms = Pick<
  Facility,
  | 'code'
  | 'advanceRate'
  | 'commissionRate'
  | 'commissionFloor'
  | 'taxRate'
  | 'interestRate'
  | 'yearDays'
  | 'recourseDays'
>

/** Money that the factor pays, as its bank line says it. */
export interface FactorPayment {
  date: IsoDate
  currency: string
  amount: number
  text: string
}

/** What becomes of an invoice of a schedule: it follows from its number, so each day tells one story. */
interface Fate {
  offered: Offered
  refused: boolean
  /** The day on which the debtor pays; null: never. */
  paidOn: IsoDate | null
  backOn: IsoDate | null
}

function nextWorkingDay(day: IsoDate): IsoDate {
  let next = day
  while (!isBankWorkingDay(next)) next = addDays(next, 1)
  return next
}

function fateOf(offered: Offered, terms: Terms): Fate {
  const c = chance(`factor ${offered.number}`)
  const refused = c.happens(REFUSED)
  const never = c.happens(NEVER_PAID)
  const late = c.whole(-2, 25)
  return {
    offered,
    refused,
    paidOn: refused || never ? null : nextWorkingDay(addDays(offered.dueDate, late)),
    backOn:
      !refused && never && terms.recourseDays !== null
        ? nextWorkingDay(addDays(offered.dueDate, terms.recourseDays))
        : null,
  }
}

interface Story {
  schedule: string
  currency: string
  /** When it answered, and advanced. */
  acceptedOn: IsoDate
  advancedOn: IsoDate
  fates: Fate[]
}

const accepted = (story: Story): Fate[] => story.fates.filter(f => !f.refused)

/** What it advances on an invoice: its share of the advance of all that were accepted. */
function advanceOf(story: Story, fate: Fate, terms: Terms): number {
  const all = accepted(story).reduce((sum, f) => sum + f.offered.amount, 0)
  const total = advanceOn(terms, all)
  // As whoever reads the answer splits it.
  const parts = split(
    total,
    accepted(story).map(f => f.offered.amount),
  )
  return parts[accepted(story).indexOf(fate)]!
}

/** What it tells on a day of one schedule, and what it pays then. */
function tellOn(story: Story, day: IsoDate, terms: Terms): { lines: AnswerLine[]; pays: number } {
  const line = (kind: AnswerLine['kind'], over: Partial<AnswerLine> = {}): AnswerLine => ({
    ...{ kind, schedule: story.schedule, invoice: '', date: day, currency: story.currency },
    ...{ amount: 0, settlement: '', text: '' },
    ...over,
  })
  const lines: AnswerLine[] = []
  let pays = 0
  if (day === story.acceptedOn)
    for (const { offered, refused } of story.fates)
      lines.push(
        refused
          ? line('refused', { invoice: offered.number, text: 'no cover for this debtor' })
          : line('accepted', { invoice: offered.number, amount: offered.amount }),
      )
  if (day === story.advancedOn && accepted(story).length) {
    const all = accepted(story).reduce((sum, f) => sum + f.offered.amount, 0)
    const amount = advanceOn(terms, all)
    lines.push(line('advance', { amount }))
    pays += amount
  }
  const settlement = `${terms.code}-${story.schedule}-${day}`
  let paidOut = 0
  for (const fate of accepted(story)) {
    const invoice = fate.offered.number
    if (fate.backOn === day) lines.push(line('recourse', { invoice, text: 'not paid in time' }))
    if (fate.paidOn !== day) continue
    const { amount } = fate.offered
    const commission = commissionOf(terms, amount).gross
    const advance = advanceOf(story, fate, terms)
    const interest = interestOn(terms, advance, daysBetween(story.advancedOn, day))
    lines.push(
      line('collected', { invoice, amount, settlement }),
      line('commission', { invoice, amount: commission, settlement }),
      line('interest', { invoice, amount: interest, settlement }),
      line('repaid', { invoice, amount: advance, settlement }),
    )
    paidOut += amount - commission - interest - advance
  }
  if (lines.some(l => l.settlement)) {
    lines.push(line('payout', { amount: paidOut, settlement }))
    pays += paidOut
  }
  return { lines, pays }
}

/**
 * A factor that reads its folder. For each day that passes it leaves a file for each schedule of which there
 * is something to tell, and answers what it pays on that day. The same day again tells nothing new.
 */
export function factorDay(folder: string, day: IsoDate, terms: Terms): FactorPayment[] {
  const [outbox, inbox] = [join(folder, terms.code, 'outbox'), join(folder, terms.code, 'inbox')]
  const known = join(folder, terms.code, 'known')
  if (!existsSync(outbox) || !isBankWorkingDay(day)) return []
  for (const f of [inbox, known]) mkdirSync(f, { recursive: true })
  const payments: FactorPayment[] = []
  for (const name of readdirSync(outbox).filter(f => f.endsWith('.csv'))) {
    const story = storyOf(join(outbox, name), join(known, `${name}.json`), day, terms)
    const file = join(inbox, `${day}-${name}`)
    const { lines, pays } = tellOn(story, day, terms)
    if (!lines.length || existsSync(file)) continue
    writeFileSync(`${file}.part`, writeAnswerFile(lines))
    renameSync(`${file}.part`, file)
    if (pays > 0)
      payments.push({
        date: day,
        currency: story.currency,
        amount: pays,
        text: `${terms.code} ${story.schedule}`,
      })
  }
  return payments
}

/** The first time it sees a schedule it decides when it answers. */
function storyOf(file: string, memory: string, day: IsoDate, terms: Terms): Story {
  const { schedule, offered } = readSchedule(readFileSync(file, 'utf8'))
  if (!existsSync(memory)) writeFileSync(memory, JSON.stringify({ seenOn: day }))
  const { seenOn } = JSON.parse(readFileSync(memory, 'utf8')) as { seenOn: IsoDate }
  return {
    schedule,
    currency: offered[0]!.currency,
    acceptedOn: seenOn,
    advancedOn: nextWorkingDay(addDays(seenOn, 1)),
    fates: offered.map(o => {
      const fate = fateOf(o, terms)
      // Nobody pays before the advance was made.
      const first = nextWorkingDay(addDays(seenOn, 2))
      return fate.paidOn !== null && fate.paidOn < first ? { ...fate, paidOn: first } : fate
    }),
  }
}
