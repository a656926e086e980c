import { addDays, fromDayNumber, dayNumber, weekday, type IsoDate } from './days'

/** Easter Sunday by the anonymous Gregorian computus (Meeus, Astronomical Algorithms, ch. 8). */
export function easterSunday(year: number): IsoDate {
  const a = year % 19
  const b = Math.floor(year / 100)
  const c = year % 100
  const h = (19 * a + b - Math.floor(b / 4) - Math.floor((b - Math.floor((b + 8) / 25) + 1) / 3) + 15) % 30
  const l = (32 + 2 * (b % 4) + 2 * Math.floor(c / 4) - h - (c % 4)) % 7
  const m = Math.floor((a + 11 * h + 22 * l) / 451)
  const month = Math.floor((h + l - 7 * m + 114) / 31)
  const day = ((h + l - 7 * m + 114) % 31) + 1
  return `${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`
}

/** A day on which euro payments settle: the TARGET calendar (closed days as in `docs/ledger.md`). */
export function isBankWorkingDay(date: IsoDate): boolean {
  const day = weekday(date)
  if (day === 0 || day === 6) return false
  if (['01-01', '05-01', '12-25', '12-26'].includes(date.slice(5))) return false
  const easter = dayNumber(easterSunday(Number(date.slice(0, 4))))
  return date !== fromDayNumber(easter - 2) && date !== fromDayNumber(easter + 1)
}

/** The date itself when the banks work, else the next day they do. */
export function onBankWorkingDay(date: IsoDate): IsoDate {
  let day = date
  while (!isBankWorkingDay(day)) day = addDays(day, 1)
  return day
}

/** n bank working days on (n > 0) or back (n < 0). */
export function addBankWorkingDays(date: IsoDate, n: number): IsoDate {
  let day = date
  for (let left = Math.abs(n); left > 0;) {
    day = addDays(day, Math.sign(n))
    if (isBankWorkingDay(day)) left--
  }
  return day
}
