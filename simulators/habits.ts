import { dayNumber, fromDayNumber, isBankWorkingDay, weekday } from '../core/calendar'
import { emptyPast, ENDED, type House, type Past } from '../core/forecast'
import { chance, type Chance } from './chance'

/*
 * Houses whose customers pay by habits that are known: what a forecast can learn is held against what
 * somebody expects who knows the habits. Four of them, each unlike the others, and none made by the
 * forecast's own rules.
 */

export interface HabitItem {
  customer: number
  written: number
  due: number
  amount: number
  /** The day on which money comes; Infinity: never. */
  paid: number
  /** Share of the amount that comes then. */
  share: number
}

export interface HabitHouse {
  name: string
  house: House
  items: HabitItem[]
  /**
   * When an item is paid by somebody's habit, drawn anew: `now` tells what has become of the customer by
   * then, such as that it has stopped.
   */
  draw: (item: HabitItem, now: number, c: Chance) => { paid: number; share: number }
}

const DAY0 = dayNumber('2024-01-02')
export const LAST_DAY = dayNumber('2026-11-27')

/** The working day that a day falls on, or the next. */
function workingDay(day: number): number {
  let next = day
  while (!isBankWorkingDay(fromDayNumber(next))) next++
  return next
}
const workingBefore = (day: number): number => {
  let last = day
  while (!isBankWorkingDay(fromDayNumber(last))) last--
  return last
}

/** About normal. */
const normal = (c: Chance): number => c.around(0, 1)
const logNormal = (c: Chance, middle: number, spread: number): number => middle * Math.exp(spread * normal(c))

interface Making {
  name: string
  customers: number
  /** By customer: items a month, middle amount, days of its terms, the day it came. */
  who: (c: Chance, n: number) => { monthly: number; middle: number; terms: number; since: number }
  draw: HabitHouse['draw']
  groups?: (n: number) => number
}

function make({ name, customers, who, draw, groups }: Making): HabitHouse {
  const c = chance(`habits ${name}`)
  const items: HabitItem[] = []
  for (let n = 0; n < customers; n++) {
    const { monthly, middle, terms, since } = who(c, n)
    for (let day = since + c.whole(0, 20); day <= LAST_DAY;) {
      const written = workingDay(day)
      const amount = Math.round(logNormal(c, middle, 0.8))
      const item = { customer: n, written, due: written + terms, amount, paid: Infinity, share: 1 }
      items.push({ ...item, ...draw(item, -Infinity, c) })
      day = written + Math.max(1, Math.round(-Math.log(1 - c.next()) * (30 / monthly)))
    }
  }
  items.sort((a, b) => a.customer - b.customer || a.due - b.due)
  const group = Uint16Array.from({ length: customers }, (_, n) => groups?.(n) ?? 0)
  return { name, items, draw, house: { customers, group, groups: Math.max(...group) + 1 } }
}

const usual = (c: Chance) => ({
  monthly: c.pick([1, 2, 2, 4, 6]),
  middle: logNormal(c, 150_000, 0.9),
  terms: c.pick([14, 30, 30, 30, 45, 60]),
  since: DAY0 + (c.happens(0.7) ? 0 : c.whole(0, 900)),
})

/** Everybody has a lateness of its own, log-normal. */
function ownLateness(): HabitHouse {
  const c = chance('own lateness')
  const customers = 260
  const habits = Array.from({ length: customers }, () => ({
    middle: logNormal(c, 14, 0.7),
    spread: 0.2 + 0.5 * c.next(),
    early: c.whole(0, 8),
  }))
  return make({
    name: 'own lateness',
    customers,
    who: usual,
    draw: (item, now, chance) => {
      const h = habits[item.customer]!
      const late = logNormal(chance, h.middle, h.spread) - h.early
      return { paid: workingDay(item.due + Math.round(late)), share: 1 }
    },
  })
}

/** Most pay in runs: on a weekday, at month end, twice a month. */
function runs(): HabitHouse {
  const c = chance('runs')
  const customers = 260
  const habits = Array.from({ length: customers }, () => ({
    kind: c.pick(['weekday', 'weekday', 'month end', 'month end', 'twice', 'any'] as const),
    day: c.whole(1, 5),
    slack: c.whole(-3, 25),
    noise: 1 + 4 * c.next(),
  }))
  const isRun = (h: (typeof habits)[number], day: number): boolean => {
    if (!isBankWorkingDay(fromDayNumber(day))) return false
    if (h.kind === 'any') return true
    const date = fromDayNumber(day)
    if (h.kind === 'weekday') return weekday(date) === h.day
    let after = day + 1
    while (!isBankWorkingDay(fromDayNumber(after))) after++
    const isLast = fromDayNumber(after).slice(0, 7) !== date.slice(0, 7)
    if (h.kind === 'month end') return isLast
    const middle = workingBefore(dayNumber(`${date.slice(0, 7)}-15`))
    return isLast || day === middle
  }
  return make({
    name: 'runs',
    customers,
    who: usual,
    draw: (item, now, chance) => {
      const h = habits[item.customer]!
      let day = item.due + Math.round(h.slack + h.noise * normal(chance))
      // Now and then somebody is away, and one item waits for the next run but one.
      if (chance.happens(0.04)) day += 14
      while (!isRun(h, day)) day++
      return { paid: day, share: 1 }
    },
  })
}

/** Some grow slower, winter and August are slow, and now and then a customer stops for good. */
function drift(): HabitHouse {
  const c = chance('drift')
  const customers = 260
  const habits = Array.from({ length: customers }, () => ({
    base: c.whole(0, 25),
    /** Days more a year. */
    slower: c.pick([0, 0, 0, 6, 12, 25, -8]),
    noise: 2 + 6 * c.next(),
    stops: c.happens(0.3) ? DAY0 + c.whole(300, 1300) : Infinity,
  }))
  return make({
    name: 'drift',
    customers,
    who: usual,
    draw: (item, now, chance) => {
      const h = habits[item.customer]!
      const month = Number(fromDayNumber(item.due).slice(5, 7))
      const season = month === 8 ? 7 : month === 12 || month === 1 ? 10 : 0
      const mean = h.base + (h.slower * (item.due - DAY0)) / 365 + season
      const paid = workingDay(item.due + Math.round(mean + h.noise * normal(chance)))
      if (now === -Infinity) return { paid: paid >= h.stops ? Infinity : paid, share: 1 }
      // Who knows the habits knows who has stopped by now, and how often others will.
      if (h.stops <= now) return { paid: Infinity, share: 1 }
      const risk = 1 - 0.9997 ** Math.max(0, paid - now)
      return { paid: chance.happens(risk) ? Infinity : paid, share: 1 }
    },
  })
}

/** Large ones wait for a director, some take discount, some deduct, some never pay; many are new. */
function mixed(): HabitHouse {
  const c = chance('mixed')
  const customers = 300
  const giant = 0
  const habits = Array.from({ length: customers }, () => ({
    middle: c.whole(-2, 22),
    noise: 2 + 6 * c.next(),
    discount: c.happens(0.2) ? 0.5 + 0.5 * c.next() : 0,
    deducts: c.happens(0.15) ? 0.3 : 0.02,
    disputes: c.happens(0.1) ? 0.12 : 0.015,
    abroad: c.happens(0.25),
    weekly: c.happens(0.3) ? c.whole(1, 5) : 0,
  }))
  return make({
    name: 'mixed',
    customers,
    groups: n => (n % 3 === 0 ? 1 : 0),
    who: (chance, n) => {
      const u = usual(chance)
      if (n === giant) return { monthly: 8, middle: 6_000_000, terms: 45, since: DAY0 }
      const isNew = n % 10 < 3
      return { ...u, since: isNew ? LAST_DAY - chance.whole(40, 260) : u.since }
    },
    draw: (item, now, chance) => {
      const h = habits[item.customer]!
      if (chance.happens(item.customer === giant ? 0.01 : h.disputes)) return { paid: Infinity, share: 1 }
      const takes = chance.happens(h.discount)
      const large = item.amount > 400_000 && item.customer !== giant ? 9 : 0
      const abroad = h.abroad ? 3 : 0
      let day = takes
        ? item.written + chance.whole(7, 10)
        : item.due + Math.round(h.middle + large + abroad + h.noise * normal(chance))
      day = workingDay(Math.max(day, item.written + 1))
      if (item.customer === giant) {
        day = workingBefore(dayNumber(`${fromDayNumber(day + 20).slice(0, 7)}-01`) + 27)
        if (day < item.due - 10) day = workingDay(item.due + 5)
      } else if (h.weekly && !takes)
        while (weekday(fromDayNumber(day)) !== h.weekly || !isBankWorkingDay(fromDayNumber(day))) day++
      const share = takes ? 0.98 : chance.happens(h.deducts) ? 0.85 + 0.13 * chance.next() : 1
      return { paid: day, share }
    },
  })
}

export const HABIT_HOUSES = { ownLateness, runs, drift, mixed } as const

/** What of a house is known on a day. */
export function knownOn({ items }: HabitHouse, day: number): { past: Past; rows: HabitItem[] } {
  const rows = items.filter(i => i.written <= day)
  const past = emptyPast(rows.length)
  rows.forEach((item, i) => {
    const isPaid = item.paid <= day
    past.customer[i] = item.customer
    past.due[i] = item.due
    past.written[i] = item.written
    past.amount[i] = item.amount
    past.part[i] = isPaid ? item.amount * item.share : item.amount
    past.ended[i] = isPaid ? ENDED.paid : ENDED.open
    past.end[i] = isPaid ? item.paid : day
  })
  return { past, rows }
}

/** What somebody expects who knows the habits: sums of each day in so many trials, trial after trial. */
export function oracle(house: HabitHouse, day: number, days: number, trials: number): Float64Array {
  const came = new Float64Array(days * trials)
  const c = chance(`oracle ${house.name} ${day}`)
  const open = house.items.filter(i => i.written <= day && i.paid > day)
  for (const item of open) {
    for (let trial = 0; trial < trials; trial++) {
      // An item that is open did not come before: days that have passed are drawn again.
      let drawn = house.draw(item, day, c)
      for (let again = 0; drawn.paid <= day && again < 60; again++) drawn = house.draw(item, day, c)
      if (drawn.paid <= day || drawn.paid > day + days) continue
      came[trial * days + drawn.paid - day - 1]! += item.amount * drawn.share
    }
  }
  return came
}
