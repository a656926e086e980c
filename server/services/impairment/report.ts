import { z } from 'zod'
import type { LossGroup, LossGrouping, LossReport } from '../../../contract/impairment'
import { addDays, addMonths, type IsoDate } from '../../../core/calendar'
import { WRITE_OFF_REASONS, type WriteOffReason } from '../../../core/impairment'
import { kindList } from '../../../core/ledger'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { sheetFile, type SheetFile } from '../common/sheet'
import { recovered, SIGNED_BY } from './lists'

/** A grouping in SQL, over the item `i` and its customer `c`: a key and a name. */
interface Grouping {
  key: string
  name: string
  /** What was billed says something of such a group. */
  billed: boolean
}

const SELLER = '(SELECT x.name FROM person x WHERE x.id = c.sales_id)'
const GROUPINGS: Record<LossGrouping, Grouping> = {
  reason: { key: "COALESCE(w.reason, '')", name: "COALESCE(w.reason, '')", billed: false },
  customer: { key: 'c.number', name: 'c.name', billed: true },
  class: {
    key: 'c.class',
    name: 'COALESCE((SELECT k.name FROM customer_class k WHERE k.code = c.class), c.class)',
    billed: true,
  },
  seller: { key: `COALESCE(${SELLER}, '')`, name: `COALESCE(${SELLER}, '')`, billed: true },
  month: {
    key: "DATE_FORMAT(i.posting_date, '%Y-%m')",
    name: "DATE_FORMAT(i.posting_date, '%Y-%m')",
    billed: true,
  },
  signer: { key: `COALESCE(${SIGNED_BY}, '')`, name: `COALESCE(${SIGNED_BY}, '')`, billed: false },
}
/** Of a group without a name. */
const NAMELESS: Record<LossGrouping, string> = {
  ...{ reason: 'By a dispute', customer: '', class: 'no class', seller: 'nobody', month: '' },
  signer: 'one person was enough',
}

const lossRow = z.object({
  key: cell.text,
  name: cell.text,
  count: cell.sum,
  lost: cell.sum,
  allowance: cell.sum,
  tax: cell.sum,
  recovered: cell.sum,
})
const billedRow = z.object({ key: cell.text, billed: cell.sum })

/** Losses that stand, posted from one day to another. */
function readLost(database: Handle, { key, name }: Grouping, range: { from: IsoDate; to: IsoDate }) {
  return database.rows(
    lossRow,
    `SELECT x.groupKey AS \`key\`, MAX(x.groupName) AS name, COUNT(*) AS count, SUM(x.base) AS lost,
      SUM(IF(x.against = 'allowance', x.base - x.tax, 0)) AS allowance, SUM(x.tax) AS tax,
      SUM(x.recovered) AS recovered FROM (
        SELECT ${key} AS groupKey, ${name} AS groupName, i.base_amount AS base, w.against,
          IF(w.relief = 'claimed', w.tax_base, 0) AS tax, ${recovered('base_amount')} AS recovered
        FROM item i JOIN customer c ON c.id = i.customer_id LEFT JOIN write_off w ON w.item_id = i.id
        WHERE i.kind = 'write-off' AND i.posting_date BETWEEN :from AND :to
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id)) x
      GROUP BY x.groupKey ORDER BY SUM(x.base) DESC, x.groupKey`,
    range,
  )
}

const CLAIM = kindList(k => k.document && k.receivable)

/** What was billed in the same time, less credit notes. */
function readBilled(database: Handle, { key }: Grouping, range: { from: IsoDate; to: IsoDate }) {
  return database.rows(
    billedRow,
    `SELECT ${key} AS \`key\`, SUM(IF(i.side = 'debit', i.base_amount, -i.base_amount)) AS billed
      FROM item i JOIN customer c ON c.id = i.customer_id LEFT JOIN write_off w ON w.item_id = i.id
      WHERE i.kind IN (${CLAIM}) AND i.posting_date BETWEEN :from AND :to GROUP BY ${key}`,
    range,
  )
}

type Figures = Pick<LossGroup, 'count' | 'lost' | 'allowance' | 'tax' | 'recovered'>

function groupOf(key: string, name: string, figures: Figures, billed: number | null): LossGroup {
  const net = figures.lost - figures.tax - figures.recovered
  const rate = billed !== null && billed > 0 ? (100 * net) / billed : null
  return { key, name, ...figures, net, billed, rate }
}

export interface ReportQuery {
  by: LossGrouping
  from?: IsoDate
  to?: IsoDate
}

/** Losses of a time by one grouping, the largest first. */
export async function readLosses(database: Handle, q: ReportQuery): Promise<LossReport> {
  const { base, today } = await readSettings(database)
  const to = q.to ?? today
  const from = q.from ?? addDays(addMonths(to, -12), 1)
  const grouping = GROUPINGS[q.by]
  const [lost, billed] = await Promise.all([
    readLost(database, grouping, { from, to }),
    readBilled(database, grouping, { from, to }),
  ])
  const billedOf = new Map(billed.map(b => [b.key, int(b.billed)]))
  const groups = lost.map(({ key, name, ...sums }) => {
    const figures: Figures = {
      count: int(sums.count),
      lost: int(sums.lost),
      allowance: int(sums.allowance),
      tax: int(sums.tax),
      recovered: int(sums.recovered),
    }
    const isReason = q.by === 'reason' && key !== ''
    const label = isReason ? WRITE_OFF_REASONS[key as WriteOffReason] : name || NAMELESS[q.by]
    return groupOf(key, label, figures, grouping.billed ? (billedOf.get(key) ?? 0) : null)
  })
  const sum = (pick: (g: LossGroup) => number) => groups.reduce((total, g) => total + pick(g), 0)
  const all: Figures = {
    count: sum(g => g.count),
    lost: sum(g => g.lost),
    allowance: sum(g => g.allowance),
    tax: sum(g => g.tax),
    recovered: sum(g => g.recovered),
  }
  const billedInAll = [...billedOf.values()].reduce((a, b) => a + b, 0)
  return { base, from, to, groups, total: groupOf('', 'all', all, billedInAll) }
}

/** The same as a file. */
export async function exportLosses(
  database: Handle,
  q: ReportQuery & { format: 'csv' | 'xlsx' },
): Promise<SheetFile> {
  const { base, from, to, groups, total } = await readLosses(database, q)
  const money = (header: string) => ({ header, currency: base })
  const cellsOf = (g: LossGroup) => [
    ...[g.name, g.count, g.lost, g.allowance, g.tax, g.recovered, g.net, g.billed],
    g.rate === null ? null : g.rate.toFixed(2),
  ]
  return sheetFile(
    `losses-by-${q.by}-${from}-${to}`,
    q.format,
    [
      { header: q.by, width: 32 },
      { header: 'write-offs', width: 12 },
      ...['lost', 'against allowance', 'tax back', 'came back', 'net', 'billed'].map(money),
      { header: 'net of billed %', width: 16 },
    ],
    groups.map(cellsOf),
    cellsOf(total),
  )
}
