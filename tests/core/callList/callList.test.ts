import { dayNumber } from '../../../core/calendar'
import { chanceOf, nextPayDay, patternOf, stuck, usualBy, type Contacted } from '../../../core/callList'

const day = dayNumber
const NOBODY: Contacted = {
  reachedOn: null,
  missed: 0,
  remindedOn: null,
  brokenPromise: false,
  held: false,
  inVain: 0,
}

describe('how a customer pays by itself', () => {
  const monthly = (dates: string[], late: number) => dates.map(d => ({ day: day(d), late, amount: 1000 }))

  test('the median by amount, and how much it varies', () => {
    const paid = [
      { day: day('2026-08-01'), late: 4, amount: 100 },
      { day: day('2026-09-02'), late: 6, amount: 100 },
      { day: day('2026-09-20'), late: 8, amount: 100 },
      { day: day('2026-10-11'), late: 60, amount: 10 },
    ]
    expect(patternOf(paid, day('2026-11-16'))).toEqual({ usual: 6, spread: 2, payDay: null })
  })
  test('somebody who pays on the 15th, a weekend later at most', () => {
    const paid = monthly(['2026-06-15', '2026-07-15', '2026-08-17', '2026-09-15', '2026-10-15'], 12)
    expect(patternOf(paid, day('2026-11-12'))!.payDay).toBe(15)
  })
  test('the last of the month is one day, however long the month is', () => {
    const paid = monthly(['2026-02-28', '2026-06-30', '2026-07-31', '2026-09-30', '2026-10-30'], 5)
    expect(patternOf(paid, day('2026-11-12'))!.payDay).toBe(29)
  })
  test('too few payments tell nothing', () => {
    expect(patternOf(monthly(['2026-09-15', '2026-10-15'], 3), day('2026-11-16'))).toBeNull()
  })
  test('a pay day that a month does not have is its last', () => {
    expect(nextPayDay(day('2026-11-05'), 31)).toBe(day('2026-11-30'))
    expect(nextPayDay(day('2026-11-05'), 5)).toBe(day('2026-11-05'))
    expect(nextPayDay(day('2026-11-06'), 5)).toBe(day('2026-12-05'))
  })
})

describe('what a call is worth', () => {
  test('who always pays on the 15th needs no call on the 12th', () => {
    const pattern = { usual: 10, spread: 2, payDay: 15 }
    expect(stuck(day('2026-11-12'), day('2026-11-01'), pattern)).toBeLessThan(0.15)
    expect(stuck(day('2026-11-30'), day('2026-11-01'), pattern)).toBeGreaterThan(0.9)
  })
  test('what is not due yet is not late', () => {
    expect(stuck(day('2026-11-16'), day('2026-11-16'), null)).toBe(0)
  })
  test('it never becomes less stuck while days pass', () => {
    for (const payDay of [null, 3, 15, 31])
      for (let late = 1; late < 90; late++) {
        const due = day('2026-08-20')
        const pattern = { usual: 12, spread: 5, payDay }
        expect(stuck(due + late + 1, due, pattern)).toBeGreaterThanOrEqual(stuck(due + late, due, pattern))
        expect(usualBy(due, pattern).day).toBeGreaterThanOrEqual(due)
      }
  })
  test('just reached, just reminded or cold: less; a broken promise or a hold: more', () => {
    const today = day('2026-11-16')
    const plain = chanceOf(20, NOBODY, today)
    expect(chanceOf(20, { ...NOBODY, reachedOn: today - 1 }, today)).toBeLessThan(plain / 2)
    expect(chanceOf(20, { ...NOBODY, reachedOn: today - 40 }, today)).toBeCloseTo(plain, 2)
    expect(chanceOf(20, { ...NOBODY, remindedOn: today - 1 }, today)).toBeLessThan(plain)
    expect(chanceOf(20, { ...NOBODY, missed: 2 }, today)).toBeLessThan(plain)
    expect(chanceOf(400, NOBODY, today)).toBeLessThan(plain / 4)
    expect(chanceOf(20, { ...NOBODY, inVain: 2 }, today)).toBeLessThan(plain / 2)
    expect(chanceOf(60, NOBODY, today, today - 100)).toBeLessThan(chanceOf(60, NOBODY, today, today - 10))
    expect(chanceOf(20, { ...NOBODY, brokenPromise: true }, today)).toBeGreaterThan(plain)
    expect(chanceOf(20, { ...NOBODY, held: true }, today)).toBeGreaterThan(plain)
  })
})
