import type { Handle } from '../../../server/db/handle'
import { acceptLineCommand } from '../../../server/services/banking/accept'
import { unmatchCommand } from '../../../server/services/banking/unmatch'
import { CUSTOMERS, type Act, type World, ordered, pick, anyone, openItems, amountOf } from './world'
import { meansIds, received } from './receipts'

export const openLines = (w: World) =>
  [...w.model.lines.values()].filter(l => !l.matched || w.chance.happens(0.05))

export async function versionOf(db: Handle, id: number): Promise<number> {
  const [row] = await db.select<{ version: number }>('SELECT version FROM bank_line WHERE id = :id', { id })
  return row!.version
}

export const said = { learn: false, told: 'said by hand', confidence: null }

export function acceptReceipt(w: World): Act | null {
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

export function acceptCovered(w: World): Act | null {
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

export function acceptLedger(w: World): Act | null {
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

export function unmatch(w: World): Act | null {
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
