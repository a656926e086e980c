import { addDays } from '../../core/calendar'
import type {
  Action,
  Covered,
  LedgerRule,
  MatchItem,
  MatchLine,
  MatchWorld,
  Part,
  Returnable,
} from '../../core/banking/matching'
import { spreadCredits } from '../../core/receipts/credits'
import { share } from '../../core/money'
import { unrulyHouse, weighted, type House, type Payer } from './house'
import { write } from './writing'

/** What a line was, told by who sent it. */
export interface TrueLine {
  line: MatchLine
  /** What a person who knew would post; null: nothing of what is known. */
  truth: Action | null
  /** Whether the line and the ledger tell enough to be answered. */
  answerable: boolean
  how: string
}
export interface UnrulyWorld {
  world: MatchWorld
  lines: TrueLine[]
}

const GRACE = 2
const TOLERANCE = 500

/** A house and what its bank brought: invented payers, each with ways of their own. */
export function unrulyWorld(seed: string, most = 1600, customers = 400): UnrulyWorld {
  const house = unrulyHouse(seed, customers)
  const free = new Map(house.customers.map(p => [p.id, [...p.items]]))
  const covered: Covered[] = []
  const returnable: Returnable[] = []
  const rules: LedgerRule[] = [
    { iban: '', words: 'bank charges', account: '6850', moneyIn: false },
    { iban: '', words: 'interest', account: '7610', moneyIn: true },
    { iban: 'DE00RENT', words: '', account: '7100', moneyIn: true },
  ]
  const lines: TrueLine[] = []
  while (lines.length < most) {
    const p = house.c.pick(house.customers)
    const own = house.c.happens(0.1)
      ? elsewhere(house, p, covered, returnable)
      : house.c.happens(0.03)
        ? several(house, free)
        : payment(house, p, free.get(p.id)!)
    if (own) lines.push(own)
  }
  return {
    lines,
    world: {
      directory: house.directory,
      items: house.items,
      covered,
      learnt: house.learnt,
      habits: house.habits,
      rules,
      returnable,
      closed: key => house.closed.get(key),
      settled: (id, amount) => (house.customers[id - 1]?.settled ?? []).filter(d => d.amount === amount),
      graceDays: GRACE,
      tolerance: TOLERANCE,
    },
  }
}

const plainName = (name: string) =>
  name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toUpperCase()

/** What the bank passes on of who paid. */
function party(house: House, p: Payer): { name: string; iban: string; ultimate: string; from: string } {
  const { c, muddle } = house
  const name = c.pick([
    p.name,
    plainName(p.name),
    plainName(p.name),
    plainName(p.name).slice(0, 18).trim(),
    p.name.split(' ').slice(0, 2).join(' '),
    c.happens(0.3) ? p.name.slice(0, 3) + p.name.slice(4) : p.name,
  ])
  const from = weighted(c, [
    ['own', 88],
    ['no name', 3 * muddle],
    ['another account', 5 * muddle],
    ['stranger', 1.5 * muddle],
    ['stranger naming', 1.5 * muddle],
    ['head', 3],
    ['behalf', 1.5],
  ])
  const head = house.customers.find(x => x.id === p.parentId)
  if (from === 'no name') return { name: '', iban: p.paysFrom, ultimate: '', from }
  if (from === 'another account')
    return { name, iban: `XX99${c.whole(10_000_000, 99_999_999)}`, ultimate: '', from }
  if (from === 'stranger') return { name: 'M Darragh', iban: '', ultimate: '', from }
  if (from === 'stranger naming') return { name: 'K Lindqvist', iban: '', ultimate: '', from }
  if (from === 'head' && head) return { name: head.name, iban: head.paysFrom, ultimate: '', from }
  if (from === 'behalf') return { name: 'Paygate Clearing', iban: 'XX11223344', ultimate: p.name, from }
  return { name, iban: p.paysFrom, ultimate: '', from: 'own' }
}

function lineOf(house: House, amount: number, over: Partial<MatchLine>): MatchLine {
  const { c, day } = house
  return {
    amount,
    currency: 'EUR',
    bookingDate: day,
    valueDate: c.happens(0.2) ? addDays(day, -1) : day,
    name: '',
    iban: '',
    text: '',
    reference: '',
    endToEndId: c.happens(0.3) ? `E2E${c.whole(100_000, 999_999)}` : '',
    code: 'PMNT-RCDT-ESCT',
    returnReason: '',
    ultimate: '',
    remittance: [],
    ...over,
  }
}

const byDue = (a: MatchItem, b: MatchItem) =>
  a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id
const sum = (items: readonly MatchItem[]) => items.reduce((a, i) => a + i.open, 0)

/** What somebody means to pay, taken out of what is still to be paid. */
function meant(house: House, p: Payer, free: MatchItem[]): MatchItem[] {
  const { c, day } = house
  const debits = free.filter(i => i.side === 'debit').sort(byDue)
  const due = debits.filter(i => i.dueDate <= addDays(day, 4))
  const ready = due.length ? due : debits.slice(0, 2)
  const early = p.takesDiscount ? debits.filter(i => i.discounts.some(d => d.date >= day)) : []
  if (early.length && c.happens(0.6)) return early.slice(0, c.whole(1, 2))
  const how = weighted(c, [
    ['one', 46],
    ['few', 22],
    ['all', 10],
    ['upTo', 10],
    ['less', 5],
  ])
  const one = p.oldestFirst || c.happens(0.4) ? ready[0] : c.pick(ready)
  if (how === 'one' || ready.length < 3) return one ? [one] : []
  if (how === 'all') return ready
  const run = ready.slice(0, c.whole(2, Math.min(12, ready.length)))
  if (how === 'upTo') return run
  if (how === 'less')
    return c.happens(0.7) ? run.filter((_, n) => n !== 1) : run.filter((_, n) => n % 3 !== 1)
  return p.oldestFirst ? run.slice(0, 4) : ready.filter(() => c.happens(3 / ready.length)).slice(0, 6)
}

function payment(house: House, p: Payer, free: MatchItem[]): TrueLine | undefined {
  const { c, muddle } = house
  const somebody = party(house, p)
  const act = weighted(c, [
    ['plain', 84],
    ['cents', 3 * muddle],
    ['part', 3 * muddle],
    ['over', 1.5 * muddle],
    ['twice', 1.5 * muddle],
    ['on account', 1.2 * muddle],
    ['deducted', 2 * muddle],
    ['any amount', 1.5 * muddle],
    ['credit', 4],
    ['listed', 2],
  ])
  // Who pays for another without a document means himself.
  const own = { name: p.name, iban: p.paysFrom, ultimate: '', from: 'own' }
  const who = (act === 'on account' || act === 'any amount') && somebody.from === 'head' ? own : somebody
  const done = (action: Action, line: MatchLine, answerable: boolean, how: string): TrueLine => ({
    line,
    truth: action,
    answerable,
    how: who.from === 'own' ? how : `${how}, ${who.from}`,
  })
  const sent = (amount: number, text: { text: string; reference?: string }, over: Partial<MatchLine> = {}) =>
    lineOf(house, amount, {
      name: who.name,
      iban: who.iban,
      ultimate: who.ultimate,
      reference: text.reference ?? '',
      text: who.from === 'stranger naming' ? `${p.name} ${text.text}` : text.text,
      ...over,
    })
  const known =
    who.from === 'own' || who.from === 'no name' ? isKnown(house, p, who) : who.from !== 'stranger'
  const part = (over: Partial<Part>): Action => ({
    kind: 'receipt',
    parts: [{ customerId: p.id, allocations: [], credits: [], onAccount: 0, ...over }],
  })
  if (act === 'twice') {
    const past = c.pick(p.settled)
    const item = { ...p.items[0]!, number: past.number, documentDate: past.documentDate, order: '' }
    const written = write(house, p, [item], past.amount)
    // Who says nothing and owes another of this amount has paid that one, as far as anybody can tell.
    const [equal] = free.filter(i => i.side === 'debit' && i.open === past.amount).sort(byDue)
    if (written.names === 'none' && equal) {
      free.splice(free.indexOf(equal), 1)
      const all = [{ itemId: equal.id, amount: equal.open, discount: 0, difference: 0 }]
      return done(part({ allocations: all }), sent(past.amount, written), known, 'paid twice, silent')
    }
    return done(
      part({ onAccount: past.amount }),
      sent(past.amount, written),
      written.names === 'all',
      'paid twice',
    )
  }
  if (act === 'on account') {
    const amount = c.whole(2, 80) * 5000
    const text = c.pick(['Akonto', 'on account', 'acompte', 'Anzahlung', 'a/c payment', 'thanks'])
    return done(part({ onAccount: amount }), sent(amount, { text }), known && text !== 'thanks', 'on account')
  }
  const items = meant(house, p, free)
  if (!items.length) return undefined
  if (act === 'any amount') {
    // A sum that nobody could take apart: an old debt, somebody else's bill.
    const amount = c.whole(1500, Math.max(2000, sum(p.items)))
    return {
      ...done(
        part({ onAccount: amount }),
        sent(amount, { text: c.pick(['', 'settlement', 'thanks']) }),
        false,
        'any amount',
      ),
      truth: null,
    }
  }
  const written = write(house, p, items, sum(items))
  if (written.names === 'none') oldestOfEqual(items, free)
  for (const i of items) free.splice(free.indexOf(i), 1)
  const takes = items.map(i => ({
    i,
    discount: p.takesDiscount ? Math.max(0, ...earned(i, house.day).map(d => d.amount)) : 0,
  }))
  const allocations = takes.map(t => ({
    itemId: t.i.id,
    amount: t.i.open - t.discount,
    discount: t.discount,
    difference: 0,
  }))
  const full = allocations.reduce((a, x) => a + x.amount, 0)
  const named = written.names === 'all'
  const how = `${items.length > 1 ? 'several' : 'one'}, ${written.how}${takes.some(t => t.discount) ? ', discount' : ''}`
  const told = known || (named && who.from !== 'stranger') || (named && who.from === 'stranger')
  const single = items.length === 1 && !takes[0]!.discount
  const [first] = allocations
  if (act === 'part' && single && full > 20_000) {
    const little = c.happens(0.15)
    const amount = little
      ? share(full, c.whole(3, 28), 100)
      : c.pick([share(full, 1, 2), c.whole(5, 9) * 1000, share(full, c.whole(50, 90), 100)])
    const some = done(
      part({ allocations: [{ ...first!, amount }] }),
      sent(amount, written),
      named && !little,
      `${how}, ${little ? 'little' : 'part'}`,
    )
    // Who pays a little of it has taken the number from the wrong paper as often as not.
    return little && c.happens(0.5) ? { ...some, truth: null } : some
  }
  if (act === 'deducted' && single && full > 20_000) {
    const amount = full - share(full, c.whole(4, 25), 100)
    return done(
      part({ allocations: [{ ...first!, amount }] }),
      sent(amount, written),
      named,
      `${how}, deducted`,
    )
  }
  if (act === 'over' && items.length === 1) {
    const twin = free.some(i => i.open === full)
    const extra = c.pick([c.whole(1, 90), c.whole(10, 60) * 100, twin ? 50 : full])
    return done(
      part({ allocations, onAccount: extra }),
      sent(full + extra, written),
      named,
      `${how}, too much`,
    )
  }
  const late = items[0]!.discounts[0]
  if (c.happens(0.02 * muddle) && single && late && !earned(items[0]!, addDays(house.day, -GRACE)).length) {
    const amount = full - late.amount
    return done(
      part({ allocations: [{ ...first!, amount }] }),
      sent(amount, written),
      named,
      `${how}, late discount`,
    )
  }
  const lost = p.fee || (act === 'cents' ? c.whole(1, 400) : 0)
  if (lost && items.length === 1 && full > 10_000) {
    const short = { ...first!, amount: first!.amount - lost, difference: lost }
    return done(part({ allocations: [short] }), sent(full - lost, written), told, `${how}, cents`)
  }
  if (act === 'credit') {
    const credit = p.items.find(i => i.side === 'credit' && free.includes(i))
    const bearing = takes.filter(t => !t.discount)
    if (credit && sum(bearing.map(t => t.i)) > credit.open) {
      free.splice(free.indexOf(credit), 1)
      const credits = spreadCredits(
        [{ id: credit.id, amount: credit.open }],
        bearing.map(t => ({ id: t.i.id, amount: t.i.open })),
      )
      const rest = allocations
        .map(a => ({
          ...a,
          amount:
            a.amount - credits.filter(k => k.debitItemId === a.itemId).reduce((x, k) => x + k.amount, 0),
        }))
        .filter(a => a.amount > 0)
      const text = c.happens(0.6) ? { ...written, text: `${written.text} - ${credit.number}` } : written
      return done(
        part({ allocations: rest, credits }),
        sent(full - credit.open, text),
        told,
        `${how}, credit`,
      )
    }
  }
  if (act === 'listed')
    return done(
      part({ allocations }),
      sent(
        full,
        { text: '' },
        {
          remittance: takes.map(t => ({
            number: t.i.number,
            credit: false,
            paid: t.i.open - t.discount,
            discount: t.discount,
            adjusted: 0,
          })),
        },
      ),
      true,
      'structured remittance',
    )
  return done(part({ allocations }), sent(full, written), told, how)
}

/** Of debts of one amount that nobody names the oldest is paid, whichever the payer had in hand. */
function oldestOfEqual(items: MatchItem[], free: readonly MatchItem[]): void {
  items.forEach((item, n) => {
    const [older] = free
      .filter(
        i => i.side === 'debit' && i.open === item.open && i.dueDate < item.dueDate && !items.includes(i),
      )
      .sort(byDue)
    if (older) items[n] = older
  })
}

const earned = (i: MatchItem, day: string) =>
  i.open === i.amount ? i.discounts.filter(d => d.date >= addDays(day, -1)) : []

const isKnown = (house: House, p: Payer, who: { name: string; iban: string }): boolean =>
  who.name !== '' || p.iban === who.iban || house.learnt.some(l => l.iban === who.iban)

/** An office pays for clients, or a head for its members. */
function several(house: House, free: Map<number, MatchItem[]>): TrueLine | undefined {
  const { c } = house
  const office = c.pick(house.offices)
  const head = c.pick(house.customers.slice(1, 15))
  const byOffice = c.happens(0.5)
  const members = byOffice ? office.clients : [head, ...house.customers.filter(p => p.parentId === head.id)]
  const some = [...new Set(members)].filter(() => c.happens(0.5)).slice(0, 4)
  const taken = some.flatMap(p => {
    const items = free
      .get(p.id)!
      .filter(i => i.side === 'debit')
      .sort(byDue)
      .slice(0, c.whole(1, 2))
    for (const i of items) free.get(p.id)!.splice(free.get(p.id)!.indexOf(i), 1)
    return items.length ? [{ p, items }] : []
  })
  if (taken.length < 1) return undefined
  const items = taken.flatMap(t => t.items)
  const written = write(house, { ...taken[0]!.p, style: 'full' }, items, sum(items))
  return {
    line: lineOf(house, sum(items), {
      name: byOffice ? office.name : head.name,
      iban: byOffice ? office.iban : head.paysFrom,
      text: written.text,
      reference: written.reference,
    }),
    truth: {
      kind: 'receipt',
      parts: taken.map(({ p, items: own }) => ({
        customerId: p.id,
        allocations: own.map(i => ({ itemId: i.id, amount: i.open, discount: 0, difference: 0 })),
        credits: [],
        onAccount: 0,
      })),
    },
    answerable: written.names === 'all',
    how: `${byOffice ? 'an office' : 'a head'} for ${taken.length}, ${written.how}`,
  }
}

/** Lines that are no payment of open items. */
function elsewhere(house: House, p: Payer, covered: Covered[], returnable: Returnable[]): TrueLine {
  const { c, day } = house
  const amount = c.happens(0.2) ? c.whole(2, 60) * 5000 : c.whole(1500, 900_000)
  const kind = weighted(c, [
    ['covered', 45],
    ['slip', 10],
    ['charges', 12],
    ['interest', 4],
    ['rent', 4],
    ['return', 14],
    ['income', 8],
    ['outgo', 6],
  ])
  const answer = (truth: Action | null, line: MatchLine, answerable = true): TrueLine => ({
    line,
    truth,
    answerable,
    how: kind,
  })
  if (kind === 'covered' || kind === 'slip') {
    const reference = String(c.whole(100_000, 999_999))
    const id = covered.length + 1
    const slip = kind === 'slip'
    covered.push({
      kind: slip ? 'slip' : 'means',
      id,
      label: slip ? `P-${10_000 + id}` : `R-${200_000 + id}`,
      customerId: slip ? null : p.id,
      amount,
      date: addDays(day, -c.whole(0, 5)),
      references: c.happens(0.5) ? [reference] : [],
    })
    const line = slip
      ? lineOf(house, amount, { text: 'LODGEMENT', code: 'PMNT-CNTR-CDPT' })
      : lineOf(house, amount, {
          name: p.name,
          iban: p.paysFrom,
          text: c.happens(0.6) ? reference : c.pick(['payment', '']),
        })
    return answer({ kind: 'covered', targets: [{ kind: slip ? 'slip' : 'means', id }] }, line)
  }
  if (kind === 'charges')
    return answer(
      { kind: 'ledger', account: '6850' },
      lineOf(house, -c.whole(100, 4000), { text: `BANK CHARGES ${c.whole(1, 52)}`, code: 'ACMT-MDOP-CHRG' }),
    )
  if (kind === 'interest')
    return answer(
      { kind: 'ledger', account: '7610' },
      lineOf(house, c.whole(10, 9000), { text: 'INTEREST Q3' }),
    )
  if (kind === 'rent')
    return answer(
      { kind: 'ledger', account: '7100' },
      lineOf(house, 85_000, { name: 'Subtenant', iban: 'DE00RENT', text: 'rent' }),
    )
  if (kind === 'return') {
    const reference = String(c.whole(100_000, 999_999))
    const itemId = 900_000 + returnable.length
    returnable.push({
      itemId,
      number: `R-${300_000 + returnable.length}`,
      customerId: p.id,
      amount,
      date: addDays(day, -c.whole(2, 12)),
      references: [reference],
      iban: c.happens(0.7) ? p.paysFrom : '',
      name: p.name,
    })
    const told = c.happens(0.8)
    return answer(
      { kind: 'return', itemId, reason: '' },
      lineOf(house, -amount, {
        text: `${told ? c.pick(['RUECKLASTSCHRIFT', 'UNPAID CHEQUE', 'impayé', 'insoluto']) : ''} ${c.happens(0.6) ? reference : ''}`.trim(),
        name: c.happens(0.6) ? p.name : '',
        iban: c.happens(0.5) ? p.paysFrom : '',
        returnReason: c.happens(0.4) ? 'AM04' : '',
      }),
    )
  }
  if (kind === 'outgo')
    return answer(
      null,
      lineOf(house, -amount, { name: 'Revenue Office', text: `VAT ${c.whole(1, 12)}/2026` }),
      false,
    )
  return answer(
    null,
    lineOf(house, amount, {
      name: c.pick(['Tax Office', 'Insurance Mutual', 'Card Acquirer']),
      text: c.pick(['refund 2025', 'claim 77120', 'settlement batch']),
    }),
    false,
  )
}
