import { slipCommand, slipVoidCommand } from '../../../server/services/banking/paying'
import { sundryCommand, sundryVoidCommand } from '../../../server/services/receipts/sundry'
import { TODAY, type Act, type World, ordered, pick, day, anyone } from './world'
import { meansIds } from './receipts'

export function slip(w: World): Act | null {
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

export function voidSlip(w: World): Act | null {
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

export function sundry(w: World): Act | null {
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

export function voidSundry(w: World): Act | null {
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
