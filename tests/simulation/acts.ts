import { addDays } from '../../core/calendar'
import type { Handle } from '../../server/db/handle'
import { perform, type AnyCommand, type Idempotency } from '../../server/ledger/command'
import type { Written } from '../../server/ledger/write'
import { acceptLineCommand } from '../../server/services/banking/accept'
import { slipCommand, slipVoidCommand } from '../../server/services/banking/paying'
import { unmatchCommand } from '../../server/services/banking/unmatch'
import { addToBatch, openBatch, removeFromBatch } from '../../server/services/receipts/batches'
import { closeBatchCommand } from '../../server/services/receipts/closeBatch'
import {
  allocateCommand,
  receiveCommand,
  reverseCommand,
  unallocateCommand,
} from '../../server/services/receipts/commands'
import { putRightCommand } from '../../server/services/receipts/putRight'
import { sundryCommand, sundryVoidCommand } from '../../server/services/receipts/sundry'
import { changeSettings } from '../../server/services/setup/settings'
import type { Actor } from '../../server/services/people/scope'
import type { Chance } from '../../simulators/chance'
import type { Model, ModelItem } from './model'
import { Died, type OtherProcess } from './other'

export const TODAY = '2026-11-16'
export const CUSTOMERS = ['K1', 'K2', 'K3']

/**
 * What an act that succeeded means. `order`: the number of its journal entry, the order in which acts took
 * effect.
 */
export interface Outcome {
  order: number
  apply: (model: Model) => void
}

/** What somebody does. */
export interface Act {
  told: string
  run: (db: Handle) => Promise<Outcome>
}

export interface World {
  chance: Chance
  model: Model
  actors: readonly Actor[]
  /** Wraps a Command with the faults that are drawn for it. */
  unsteady: (what: AnyCommand) => AnyCommand
  elsewhere: Elsewhere
  batches: Map<number, { id: number; keyed: number[] }>
}

/** The second process, and what is told of it. */
export interface Elsewhere {
  process: OtherProcess
  url: string
  count: (what: string) => void
  /** Of the keys that were used. */
  keys: number
}

interface Ran {
  order: number
  written: readonly Written[]
  result: never
}

/** Performs a Command, here or in the second process, and tells where in the journal it came. */
async function ordered(w: World, db: Handle, actor: Actor, what: AnyCommand, ask: unknown): Promise<Ran> {
  if (w.chance.happens(0.12)) return performedElsewhere(w, db, actor, what, ask)
  return performedHere(db, actor, w.unsteady(what), ask)
}

/**
 * In the second process; now and then it is killed about when it commits. Whoever asked does not know then
 * whether it was posted, and asks again with the same key: it must be posted once.
 */
async function performedElsewhere(
  w: World,
  db: Handle,
  actor: Actor,
  what: AnyCommand,
  ask: unknown,
): Promise<Ran> {
  const { elsewhere, chance } = w
  const { url } = elsewhere
  const key = `elsewhere ${++elsewhere.keys}`
  const killAfter = chance.happens(0.03) ? chance.whole(0, 5) : null
  elsewhere.count('by the second process')
  try {
    const done = await elsewhere.process.perform({ url, actor, name: what.name, ask, key }, killAfter)
    return { ...done, order: orderOf(done.written), result: done.result as never }
  } catch (error) {
    if (!(error instanceof Died)) throw error
    const again = await performedHere(db, actor, what, ask, { key, request: ask })
    elsewhere.count(
      again.written.length ? 'process killed before its commit' : 'process killed after its commit',
    )
    const written = again.written.length ? again.written : error.written
    return { order: orderOf(written), written, result: again.result }
  }
}

const orderOf = (written: readonly Written[]) => written[0]?.entryNumber ?? 0

async function performedHere(
  db: Handle,
  actor: Actor,
  what: AnyCommand,
  ask: unknown,
  key?: Idempotency,
): Promise<Ran> {
  let written: readonly Written[] = []
  const watched: AnyCommand = {
    ...what,
    after: async done => {
      written = done.written
      return what.after(done) as Promise<unknown>
    },
  }
  const result = (await perform(db, actor, watched, ask, key)) as never
  return { order: orderOf(written), written, result }
}

const pick = <T>(w: World, list: readonly T[]): T | undefined =>
  list.length ? w.chance.pick(list) : undefined
const day = (w: World) => addDays(TODAY, -w.chance.whole(0, w.chance.happens(0.5) ? 0 : 14))
const anyone = (w: World) => w.chance.pick(w.actors)

const openItems = (w: World, side: 'debit' | 'credit', customer: string, currency?: string): ModelItem[] =>
  [...w.model.items.values()].filter(
    i =>
      i.side === side &&
      i.customer === customer &&
      (!currency || i.currency === currency) &&
      // Now and then somebody tries what is closed.
      (i.open > 0 || w.chance.happens(0.05)) &&
      i.kind !== 'reversal',
  )

/** So much as is open; now and then too much, or a part. */
function amountOf(w: World, open: number): number {
  if (w.chance.happens(0.07)) return open + w.chance.whole(1, 500)
  return w.chance.happens(0.5) ? Math.max(1, open) : Math.max(1, w.chance.whole(1, Math.max(1, open)))
}

function receive(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const due = openItems(w, 'debit', customer)
  const first = pick(w, due)
  const currency = first?.currency ?? 'EUR'
  const chosen = [...new Set([first, pick(w, due), pick(w, due)])].filter(
    (i): i is ModelItem => i !== undefined && i.currency === currency,
  )
  const allocations = chosen.map(i => ({ itemId: i.id, amount: amountOf(w, i.open), difference: 0 }))
  // A few cents short, written off.
  const last = allocations[0]
  const lastOpen = chosen[0]?.open ?? 0
  if (last && lastOpen > 300 && w.chance.happens(0.15)) {
    last.difference = w.chance.whole(1, 90)
    last.amount = lastOpen - last.difference
  }
  const onAccount = w.chance.happens(0.4) || !allocations.length ? w.chance.whole(1, 50_000) : 0
  const sum = allocations.reduce((a, x) => a + x.amount, 0) + onAccount
  const split = w.chance.happens(0.2) && sum > 2 ? w.chance.whole(1, sum - 1) : 0
  const kind = () => w.chance.pick(['cheque', 'cash', 'transfer', 'cheque'] as const)
  const means = [sum - split, split]
    .filter(amount => amount > 0)
    .map(amount => ({ means: kind(), amount, reference: String(w.chance.whole(1, 999_999)) }))
  const ask = { customer, currency, date: day(w), means, allocations, onAccount }
  const actor = anyone(w)
  return {
    told: `receive ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, receiveCommand, ask)
      const { id } = written[0]!.items[0]!
      const ids = await meansIds(db, id)
      return {
        order,
        apply: m =>
          received(m, id, customer, currency, sum, ask.date, means, ids, () => {
            allocations.forEach((a, i) =>
              m.link(written[0]!.allocations[i]!, id, a.itemId, a.amount, a.difference),
            )
          }),
      }
    },
  }
}

const meansIds = async (db: Handle, itemId: number) =>
  (
    await db.select<{ id: number }>('SELECT id FROM receipt_means WHERE item_id = :itemId ORDER BY id', {
      itemId,
    })
  ).map(m => m.id)

function received(
  m: Model,
  id: number,
  customer: string,
  currency: string,
  amount: number,
  date: string,
  means: readonly { means: string; amount: number }[],
  ids: readonly number[],
  allocate: () => void,
): void {
  m.items.set(id, {
    id,
    customer,
    currency,
    side: 'credit',
    amount,
    open: amount,
    kind: 'receipt',
    date,
    reversed: false,
  })
  means.forEach((x, i) =>
    m.means.set(ids[i]!, {
      id: ids[i]!,
      owner: id,
      means: x.means,
      currency,
      amount: x.amount,
      place: x.means === 'transfer' || x.means === 'card' ? 'clearing' : 'tray',
      slip: null,
    }),
  )
  allocate()
}

function allocate(w: World): Act | null {
  const customer = w.chance.pick(CUSTOMERS)
  const credit = pick(w, openItems(w, 'credit', customer))
  const debit = credit && pick(w, openItems(w, 'debit', customer, credit.currency))
  if (!credit || !debit) return null
  const amount = amountOf(w, Math.min(credit.open, debit.open))
  const ask = {
    customer,
    date: day(w),
    pairs: [{ debitItemId: debit.id, creditItemId: credit.id, amount }],
  }
  const actor = anyone(w)
  return {
    told: `allocate ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written } = await ordered(w, db, actor, allocateCommand, ask)
      return { order, apply: m => m.link(written[0]!.allocations[0]!, credit.id, debit.id, amount, 0) }
    },
  }
}

function unallocate(w: World): Act | null {
  const links = [...w.model.links.values()].filter(l => l.live || w.chance.happens(0.03))
  const link = pick(w, links)
  if (!link) return null
  const { customer } = w.model.items.get(link.credit)!
  const ask = { customer, date: day(w), allocationIds: [link.id], reason: 'wrong' }
  const actor = anyone(w)
  return {
    told: `unallocate ${JSON.stringify(ask)}`,
    run: async db => {
      const { order } = await ordered(w, db, actor, unallocateCommand, ask)
      return { order, apply: m => m.unlink(link.id) }
    },
  }
}

const receipts = (w: World) =>
  [...w.model.items.values()].filter(i => i.kind === 'receipt' && (!i.reversed || w.chance.happens(0.03)))

function reverse(w: World): Act | null {
  const receipt = pick(w, receipts(w))
  if (!receipt) return null
  const ask = { itemId: receipt.id, date: day(w), reason: 'returned' }
  const actor = anyone(w)
  return {
    told: `reverse ${JSON.stringify(ask)}`,
    run: async db => {
      const { order } = await ordered(w, db, actor, reverseCommand, ask)
      return { order, apply: m => m.reverse(receipt.id) }
    },
  }
}

function putRight(w: World): Act | null {
  const receipt = pick(w, receipts(w))
  if (!receipt) return null
  const customer = w.chance.happens(0.6) ? w.chance.pick(CUSTOMERS) : receipt.customer
  const date = w.chance.happens(0.4) ? day(w) : undefined
  const ask = { itemId: receipt.id, reason: 'wrong', customer, date }
  const actor = anyone(w)
  return {
    told: `put right ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, result } = await ordered(w, db, actor, putRightCommand, ask)
      const { receipt: right } = result as { receipt: { id: number } }
      const ids = await meansIds(db, right.id)
      const links = await db.select<{ id: number; debit: number; amount: number; extra: unknown }>(
        `SELECT a.id, a.debit_item_id AS debit, a.amount,
          COALESCE((SELECT SUM(x.amount) FROM allocation x JOIN item k ON k.id = x.credit_item_id
            WHERE k.born_of_item_id = :id AND x.debit_item_id = a.debit_item_id
            AND x.undoes_id IS NULL), 0) AS extra
          FROM allocation a WHERE a.credit_item_id = :id AND a.undoes_id IS NULL ORDER BY a.id`,
        { id: right.id },
      )
      return {
        order,
        apply: m => {
          const moved = customer !== receipt.customer
          const was = m.linksOf(receipt.id)
          if (!moved && JSON.stringify(was.map(l => l.debit)) !== JSON.stringify(links.map(l => l.debit)))
            throw new Error(`putting right ${receipt.id} lost a link`)
          if (moved && links.length)
            throw new Error(`putting right ${receipt.id} kept links of another account`)
          const old = m.meansOf(receipt.id)
          for (const l of was) m.unlink(l.id)
          m.take(receipt.id, m.items.get(receipt.id)!.open)
          m.items.get(receipt.id)!.reversed = true
          m.items.set(right.id, { ...receipt, id: right.id, customer, open: receipt.amount, reversed: false })
          // The money stays where it is; slip and bank line follow to the new receipt.
          old.forEach((x, i) => {
            m.means.delete(x.id)
            m.means.set(ids[i]!, { ...x, id: ids[i]!, owner: right.id })
            for (const line of m.lines.values())
              if (line.matched?.kind === 'covered')
                line.matched.means = line.matched.means.map(id => (id === x.id ? ids[i]! : id))
          })
          for (const line of m.lines.values())
            if (line.matched?.kind === 'receipt')
              line.matched.receipts = line.matched.receipts.map(id => (id === receipt.id ? right.id : id))
          for (const l of links) m.link(l.id, right.id, l.debit, l.amount, Number(l.extra))
        },
      }
    },
  }
}

function slip(w: World): Act | null {
  const currency = w.chance.happens(0.8) ? 'EUR' : 'GBP'
  const inTray = [...w.model.means.values()].filter(
    m => m.currency === currency && (m.place === 'tray' || w.chance.happens(0.04)),
  )
  const chosen = [...new Set([pick(w, inTray), pick(w, inTray), pick(w, inTray)])].filter(
    m => m !== undefined,
  )
  if (!chosen.length) return null
  const cash = chosen.filter(m => m.means === 'cash').reduce((a, m) => a + m.amount, 0)
  const total = chosen.reduce((a, m) => a + m.amount, 0)
  const kept = cash && cash < total && w.chance.happens(0.3) ? w.chance.whole(1, cash) : 0
  const ask = { date: TODAY, means: chosen.map(m => m.id), cashKept: kept }
  const actor = anyone(w)
  return {
    told: `slip ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, written, result } = await ordered(w, db, actor, slipCommand, ask)
      const { id } = result as { id: number }
      return {
        order,
        apply: m => {
          const { number } = written[0]!
          m.slips.set(id, { id, number, currency, total, kept, state: 'open' })
          m.petty += kept
          for (const x of ask.means) {
            const own = m.means.get(x)
            if (own?.place !== 'tray') throw new Error(`means ${x} went on slip ${number} from ${own?.place}`)
            Object.assign(own, { place: 'slip', slip: id })
          }
        },
      }
    },
  }
}

function voidSlip(w: World): Act | null {
  const own = pick(
    w,
    [...w.model.slips.values()].filter(s => s.state === 'open' || w.chance.happens(0.1)),
  )
  if (!own) return null
  const actor = anyone(w)
  return {
    told: `void slip ${own.id}`,
    run: async db => {
      const ask = { id: own.id, date: TODAY, reason: 'wrong' }
      const { order } = await ordered(w, db, actor, slipVoidCommand, ask)
      return {
        order,
        apply: m => {
          m.slips.get(own.id)!.state = 'void'
          m.petty -= own.kept
          for (const x of m.means.values())
            if (x.slip === own.id) Object.assign(x, { place: 'tray', slip: null })
        },
      }
    },
  }
}

function sundry(w: World): Act | null {
  const amount = w.chance.whole(100, 90_000)
  const means = w.chance.pick(['cheque', 'transfer'] as const)
  const ask = { date: day(w), currency: 'EUR', amount, means, payer: 'Crate hire', account: '4900' }
  const actor = anyone(w)
  return {
    told: `sundry ${JSON.stringify(ask)}`,
    run: async db => {
      const { order, result } = await ordered(w, db, actor, sundryCommand, ask)
      const { id } = result as { id: number }
      const [meansId] = await meansIds(db, -id)
      const place = means === 'cheque' ? ('tray' as const) : ('clearing' as const)
      return {
        order,
        apply: m =>
          void m.means.set(meansId!, {
            id: meansId!,
            owner: -id,
            means,
            currency: 'EUR',
            amount,
            place,
            slip: null,
          }),
      }
    },
  }
}

function voidSundry(w: World): Act | null {
  const own = pick(
    w,
    [...w.model.means.values()].filter(m => m.owner < 0),
  )
  if (!own) return null
  const actor = anyone(w)
  return {
    told: `void sundry ${-own.owner}`,
    run: async db => {
      const ask = { id: -own.owner, reason: 'twice' }
      const { order } = await ordered(w, db, actor, sundryVoidCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.means.get(own.id)!
          if (now.place !== 'tray' && now.place !== 'clearing')
            throw new Error(`sundry money was taken back from ${now.place}`)
          now.place = 'gone'
        },
      }
    },
  }
}

const openLines = (w: World) => [...w.model.lines.values()].filter(l => !l.matched || w.chance.happens(0.05))

async function versionOf(db: Handle, id: number): Promise<number> {
  const [row] = await db.select<{ version: number }>('SELECT version FROM bank_line WHERE id = :id', { id })
  return row!.version
}

const said = { learn: false, told: 'said by hand', confidence: null }

function acceptReceipt(w: World): Act | null {
  const line = pick(
    w,
    openLines(w).filter(l => l.amount > 0 && l.currency === 'EUR'),
  )
  if (!line) return null
  const customer = w.chance.pick(CUSTOMERS)
  const due = pick(w, openItems(w, 'debit', customer, 'EUR'))
  const amount = due ? Math.min(amountOf(w, due.open), line.amount) : 0
  const allocations = due && amount ? [{ itemId: due.id, amount }] : []
  const parts = [{ customer, allocations, onAccount: line.amount - (allocations.length ? amount : 0) }]
  const actor = anyone(w)
  return {
    told: `line ${line.id} is a receipt ${JSON.stringify(parts)}`,
    run: async db => {
      const ask = {
        id: line.id,
        version: await versionOf(db, line.id),
        action: { kind: 'receipt', parts },
        ...said,
      }
      const { order, written } = await ordered(w, db, actor, acceptLineCommand, ask)
      const { id } = written[0]!.items[0]!
      const [meansId] = await meansIds(db, id)
      const [row] = await db.select<{ date: string }>(
        'SELECT posting_date AS date FROM item WHERE id = :id',
        {
          id,
        },
      )
      return {
        order,
        apply: m => {
          const now = m.lines.get(line.id)!
          if (now.matched) throw new Error(`line ${line.id} was matched twice`)
          now.matched = { kind: 'receipt', receipts: [id] }
          const paid = [{ means: 'transfer', amount: line.amount }]
          received(m, id, customer, 'EUR', line.amount, row!.date, paid, [meansId!], () => {
            m.means.get(meansId!)!.place = 'bank'
            allocations.forEach((a, i) => m.link(written[0]!.allocations[i]!, id, a.itemId, a.amount, 0))
          })
        },
      }
    },
  }
}

function acceptCovered(w: World): Act | null {
  const line = pick(w, openLines(w))
  if (!line) return null
  const waits = [...w.model.means.values()].filter(
    m => m.currency === line.currency && (m.place === 'clearing' || w.chance.happens(0.03)),
  )
  const slips = [...w.model.slips.values()].filter(
    s => s.currency === line.currency && (s.state === 'open' || w.chance.happens(0.05)),
  )
  const bySlip = w.chance.happens(0.6)
  const chosenSlip = bySlip ? pick(w, slips) : undefined
  const chosenMeans = bySlip ? undefined : pick(w, waits)
  if (!chosenSlip && !chosenMeans) return null
  const target = chosenSlip ? { kind: 'slip', id: chosenSlip.id } : { kind: 'means', id: chosenMeans!.id }
  const restAccount = w.chance.pick(['6850', '6850', '1100', '9999'])
  const actor = anyone(w)
  return {
    told: `line ${line.id} settles ${target.kind} ${target.id}, the rest to ${restAccount}`,
    run: async db => {
      const action = { kind: 'covered', targets: [target], restAccount }
      const ask = { id: line.id, version: await versionOf(db, line.id), action, ...said }
      const { order } = await ordered(w, db, actor, acceptLineCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.lines.get(line.id)!
          if (now.matched) throw new Error(`line ${line.id} was matched twice`)
          now.matched = {
            kind: 'covered',
            means: chosenMeans ? [chosenMeans.id] : [],
            slips: chosenSlip ? [chosenSlip.id] : [],
          }
          if (chosenSlip) {
            const s = m.slips.get(chosenSlip.id)!
            if (s.state !== 'open') throw new Error(`slip ${s.number} was met while ${s.state}`)
            s.state = 'met'
          } else {
            const x = m.means.get(chosenMeans!.id)!
            if (x.place !== 'clearing') throw new Error(`means ${x.id} was met while at ${x.place}`)
            x.place = 'bank'
          }
        },
      }
    },
  }
}

function acceptLedger(w: World): Act | null {
  const line = pick(w, openLines(w))
  if (!line) return null
  const account = w.chance.pick(['4900', '6850', '4900', '1210'])
  const actor = anyone(w)
  return {
    told: `line ${line.id} goes to ${account}`,
    run: async db => {
      const action = { kind: 'ledger', account }
      const ask = { id: line.id, version: await versionOf(db, line.id), action, ...said }
      const { order } = await ordered(w, db, actor, acceptLineCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.lines.get(line.id)!
          if (now.matched) throw new Error(`line ${line.id} was matched twice`)
          now.matched = { kind: 'ledger' }
        },
      }
    },
  }
}

function unmatch(w: World): Act | null {
  const line = pick(
    w,
    [...w.model.lines.values()].filter(l => l.matched),
  )
  if (!line) return null
  const actor = anyone(w)
  return {
    told: `unmatch line ${line.id}`,
    run: async db => {
      const ask = { id: line.id, version: await versionOf(db, line.id), reason: 'wrong' }
      const { order } = await ordered(w, db, actor, unmatchCommand, ask)
      return {
        order,
        apply: m => {
          const now = m.lines.get(line.id)!
          const { matched } = now
          if (!matched) throw new Error(`line ${line.id} was unmatched twice`)
          now.matched = null
          if (matched.kind === 'covered') {
            for (const id of matched.slips) m.slips.get(id)!.state = 'open'
            for (const id of matched.means) m.means.get(id)!.place = 'clearing'
          }
          if (matched.kind === 'receipt')
            for (const id of matched.receipts) {
              for (const l of m.linksOf(id)) m.unlink(l.id)
              m.take(id, m.items.get(id)!.open)
              m.items.get(id)!.reversed = true
              for (const x of m.meansOf(id)) x.place = 'gone'
            }
        },
      }
    },
  }
}

/** Somebody's batch: opened, keyed into, taken out of, closed. Only the closing posts. */
function batch(w: World): Act | null {
  const actor = anyone(w)
  const mine = w.batches.get(actor.id)
  if (!mine) {
    return {
      told: `${actor.name} opens a batch`,
      run: async db => {
        const opened = await openBatch(db, actor, {
          currency: 'EUR',
          date: TODAY,
          text: '',
          controlTotal: null,
          controlCount: null,
        })
        return { order: 0, apply: () => void w.batches.set(actor.id, { id: opened.id, keyed: [] }) }
      },
    }
  }
  if (mine.keyed.length && w.chance.happens(0.1)) {
    const keyed = w.chance.pick(mine.keyed)
    return {
      told: `${actor.name} takes receipt ${keyed} out of batch ${mine.id}`,
      run: async db => {
        await removeFromBatch(db, actor, mine.id, keyed)
        return { order: 0, apply: () => void mine.keyed.splice(mine.keyed.indexOf(keyed), 1) }
      },
    }
  }
  if (mine.keyed.length < 4 && w.chance.happens(0.7)) {
    const customer = w.chance.pick(CUSTOMERS)
    const due = pick(w, openItems(w, 'debit', customer, 'EUR'))
    const amount = due ? amountOf(w, due.open) : w.chance.whole(1, 9000)
    const ask = {
      customer,
      currency: 'EUR',
      date: TODAY,
      text: '',
      means: [{ means: 'cheque' as const, amount, reference: String(w.chance.whole(1, 9999)) }],
      allocations: due ? [{ itemId: due.id, amount, discount: 0, difference: 0 }] : [],
      lateDiscount: false,
      advance: false,
      onAccount: due ? 0 : amount,
    }
    return {
      told: `${actor.name} keys ${JSON.stringify(ask)} into batch ${mine.id}`,
      run: async db => {
        const after = await addToBatch(db, actor, mine.id, ask)
        return { order: 0, apply: () => (mine.keyed = after.receipts.map(r => r.id)) }
      },
    }
  }
  return {
    told: `${actor.name} closes batch ${mine.id}`,
    run: async db => {
      const [row] = await db.select<{ version: number }>('SELECT version FROM batch WHERE id = :id', {
        id: mine.id,
      })
      const ask = { id: mine.id, version: row!.version }
      const { order, written } = await ordered(w, db, actor, closeBatchCommand, ask)
      const made = await db.select<{
        id: number
        body: string
        customer: string
      }>(
        `SELECT r.item_id AS id, r.body, c.number AS customer FROM batch_receipt r
          JOIN customer c ON c.id = r.customer_id WHERE r.batch_id = :id ORDER BY r.id`,
        { id: mine.id },
      )
      const ids: number[][] = []
      for (const r of made) ids.push(await meansIds(db, r.id))
      return {
        order,
        apply: m => {
          w.batches.delete(actor.id)
          made.forEach((r, i) => {
            const body = JSON.parse(r.body) as {
              means: { means: string; amount: number }[]
              allocations: { itemId: number; amount: number }[]
            }
            const sum = body.means.reduce((a, x) => a + x.amount, 0)
            received(m, r.id, r.customer, 'EUR', sum, TODAY, body.means, ids[i]!, () =>
              body.allocations.forEach((a, n) =>
                m.link(written[i]!.allocations[n]!, r.id, a.itemId, a.amount, 0),
              ),
            )
          })
        },
      }
    },
  }
}

/**
 * A period closes, or is opened again: what comes after is refused, what is under way comes before or is
 * refused.
 */
function period(w: World): Act | null {
  const closedUntil = w.chance.happens(0.5) ? null : addDays(TODAY, -w.chance.whole(3, 12))
  return {
    told: `closed until ${closedUntil}`,
    run: async db => {
      await changeSettings(db, w.actors[0]!, { closedUntil })
      return { order: 0, apply: () => {} }
    },
  }
}

const WEIGHED: [number, (w: World) => Act | null][] = [
  [20, receive],
  [14, allocate],
  [12, unallocate],
  [8, reverse],
  [8, putRight],
  [8, slip],
  [4, voidSlip],
  [3, sundry],
  [2, voidSundry],
  [8, acceptReceipt],
  [8, acceptCovered],
  [3, acceptLedger],
  [7, unmatch],
  [9, batch],
  [2, period],
]
const TOTAL = WEIGHED.reduce((a, [n]) => a + n, 0)

/** What somebody does next, drawn by chance. */
export function nextAct(w: World): Act {
  for (;;) {
    let at = w.chance.whole(1, TOTAL)
    const [, make] = WEIGHED.find(([n]) => (at -= n) <= 0)!
    const act = make(w)
    if (act) return act
  }
}
