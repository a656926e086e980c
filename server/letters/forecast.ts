import type { ForecastAnswer } from '../../contract/forecast'
import { SOURCES } from '../../core/forecast'
import { toMajor } from '../../core/money'
import { AGES, INK, LEFT, letterDocument, RULE, sansFor, SOFT } from './paper'
import { formatDate, formatMoney } from './text'

/*
 * The forecast on one page, for the weekly meeting: what is told first, the picture, the table.
 */

/** All texts as they are printed. */
export interface ForecastSheet {
  company: string
  title: string
  facts: string[]
  forecast: ForecastAnswer
}

const PICTURE = { top: 186, height: 150 }
const TABLE_TOP = 360
const ROW = 14.5
const LABEL_SHARE = 0.17
/** More columns than this have no room: weeks are put together in twos. */
const MOST_COLUMNS = 14
const DARK = AGES[4]!

type Paper = ReturnType<typeof letterDocument>
type Day = ForecastAnswer['balance'][number]

/** The balance day by day with its band, the floor, and where it may be crossed. */
function drawPicture(
  { doc, width, text }: Paper,
  { balance, floor, crossing, currency }: ForecastAnswer,
): void {
  if (!balance.length) return
  const values = [...balance.flatMap(d => [d.p10, d.p90]), floor]
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const x = (n: number): number => LEFT + 70 + ((width - 70) * n) / Math.max(1, balance.length - 1)
  const y = (amount: number): number =>
    PICTURE.top + PICTURE.height * (1 - (amount - low) / Math.max(1, high - low))
  for (const amount of [low, (low + high) / 2, high]) {
    doc
      .moveTo(LEFT + 70, y(amount))
      .lineTo(LEFT + width, y(amount))
      .lineWidth(0.4)
      .strokeColor(RULE)
      .stroke()
    text(formatMoney(Math.round(amount), currency, 'en'), LEFT, y(amount) - 5, { size: 7.5, soft: true })
  }
  const lineOf = (of: (day: Day) => number, days: readonly Day[], from = 0): void => {
    days.forEach((day, n) => {
      if (n > 0) doc.lineTo(x(from + n), y(of(days[n - 1]!)))
      doc.lineTo(x(from + n), y(of(day)))
    })
  }
  doc.moveTo(x(0), y(balance[0]!.p90))
  lineOf(d => d.p90, balance)
  for (let n = balance.length - 1; n >= 0; n--) {
    doc.lineTo(x(n), y(balance[n]!.p10))
    if (n > 0) doc.lineTo(x(n), y(balance[n - 1]!.p10))
  }
  doc.fillOpacity(0.5).fill(AGES[0]!).fillOpacity(1)
  doc.moveTo(x(0), y(balance[0]!.p50))
  lineOf(d => d.p50, balance)
  doc.lineWidth(1.2).strokeColor(INK).stroke()
  doc
    .moveTo(LEFT + 70, y(floor))
    .lineTo(LEFT + width, y(floor))
    .lineWidth(0.8)
    .dash(3, { space: 2 })
  doc.strokeColor(DARK).stroke().undash()
  const at = crossing ? balance.findIndex(d => d.date === crossing.date) : -1
  if (at >= 0) doc.circle(x(at), y(floor), 3).fill(DARK)
}

interface Column {
  title: string
  from: number
  to: number
}

/** A day without its year. */
const dayOf = (date: string): string => formatDate(date, 'en').replace(/ \d{4}$/, '')

/** Weeks, or pairs of them where there are many. */
function columnsOf({ weeks }: ForecastAnswer): Column[] {
  const step = weeks.length > MOST_COLUMNS ? 2 : 1
  return Array.from({ length: Math.ceil(weeks.length / step) }, (_, n) => {
    const [from, to] = [n * step, Math.min(weeks.length, n * step + step)]
    return { title: dayOf(weeks[to - 1]!.to), from, to }
  })
}

/** Thousands: less has no room, and nobody steers by it. */
const thousandsIn =
  (currency: string) =>
  (amount: number): string =>
    (Math.round(Number(toMajor(Math.round(amount), currency)) / 1000) || 0).toLocaleString('en')

/** Answers where it ends. */
function drawTable({ doc, width, rule }: Paper, forecast: ForecastAnswer): number {
  const columns = columnsOf(forecast)
  const thousands = thousandsIn(forecast.currency)
  const label = width * LABEL_SHARE
  const each = (width - label) / (columns.length + 1)
  const line = (top: number, name: string, cells: string[], isBold = false, isSoft = false): void => {
    doc
      .font(isBold ? 'bold' : 'sans')
      .fontSize(7.5)
      .fillColor(isSoft ? SOFT : INK)
    doc.text(name, LEFT, top, { width: label, lineBreak: false })
    cells.forEach((cell, n) =>
      doc.text(cell, LEFT + label + n * each, top, { width: each - 2, align: 'right', lineBreak: false }),
    )
  }
  const sums = (weeks: ForecastAnswer['weeks'], of: (w: ForecastAnswer['weeks'][number]) => number) => {
    const sum = (list: typeof weeks): number => list.reduce((total, w) => total + of(w), 0)
    return [...columns.map(c => thousands(sum(weeks.slice(c.from, c.to)))), thousands(sum(weeks))]
  }
  let top = TABLE_TOP
  line(top, `${forecast.currency} thousand, until`, [...columns.map(c => c.title), 'all'], false, true)
  rule(top + 10)
  top += ROW
  for (const { source, weeks } of forecast.bySource) {
    if (weeks.every(w => w.mean === 0)) continue
    line(
      top,
      SOURCES[source].label,
      sums(weeks, w => w.mean),
    )
    top += ROW
  }
  rule(top - 4)
  line(
    top,
    'On average',
    sums(forecast.weeks, w => w.mean),
    true,
  )
  if (columns.every(c => c.to - c.from === 1)) {
    const within = (name: string, of: (w: ForecastAnswer['weeks'][number]) => number): void => {
      top += ROW
      line(top, name, forecast.weeks.map(of).map(thousands), false, true)
    }
    within('One in ten below', w => w.p10)
    within('One in ten above', w => w.p90)
  }
  return top + ROW
}

/** So many customers are named. */
const NAMED = 5
/** Dates in a sentence, as the page writes them. */
const proseOf = (text: string): string => text.replace(/\d{4}-\d{2}-\d{2}/g, day => formatDate(day, 'en'))

/** Who stopped paying as it used to, and who brings the most in four weeks: what the meeting talks about. */
function drawCustomers(
  { doc, text, width }: Paper,
  { customers, currency }: ForecastAnswer,
  from: number,
): void {
  const money = (amount: number): string => formatMoney(amount, currency, 'en')
  const soon = (weeks: readonly number[]): number => weeks.slice(0, 4).reduce((a, b) => a + b, 0)
  const stopped = customers.filter(c => c.late !== null).slice(0, NAMED)
  const most = customers
    .filter(c => c.late === null)
    .sort((a, b) => soon(b.weeks) - soon(a.weeks))
    .slice(0, NAMED)
  let top = from + ROW
  const part = (title: string, lines: string[]): void => {
    if (!lines.length) return
    text(title, LEFT, top, { size: 9, font: 'bold' })
    // Each on one line: what is too long for it ends in an ellipsis.
    lines.forEach((line, n) =>
      doc
        .font(sansFor(line))
        .fontSize(8)
        .fillColor(INK)
        .text(line, LEFT, top + 13 + n * 11, { width, height: 11, ellipsis: true }),
    )
    top += 13 + lines.length * 11 + 8
  }
  part(
    'Stopped paying as they used to',
    stopped.map(c => `${c.name}: ${money(c.open)} open; ${proseOf(c.late!)}`),
  )
  part(
    'Most is expected within four weeks from',
    most.map(c => `${c.name}: ${money(soon(c.weeks))}, ${money(c.open)} open; ${proseOf(c.why)}`),
  )
}

/** The page as PDF. */
export async function forecastPdf({ company, title, facts, forecast }: ForecastSheet): Promise<Buffer> {
  const paper = letterDocument(company, title)
  paper.text(title, LEFT, 100, { size: 15, font: 'serif' })
  facts.forEach((fact, n) => paper.text(fact, LEFT, 126 + n * 15, { size: 9.5 }))
  drawPicture(paper, forecast)
  drawCustomers(paper, forecast, drawTable(paper, forecast))
  paper.doc.end()
  return paper.ended
}
