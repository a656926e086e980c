import { z } from 'zod'
import { cell } from '../../db/rows'
import { ITEM_KINDS } from '../../../core/ledger'
import JSZip from 'jszip'
import { KINDS } from '../../../core/ledger'
import { toMajor } from '../../../core/money'
import { writeCsv } from '../../../formats/csv'

import type { Handle } from '../../db/handle'
import { readMaster } from '../accounts/master/read'
import { readTimeline } from '../accounts/timeline'
import { copyPdf, statementPdf } from '../letters/statements'
import { readHandover } from './handover'
import { noticeLetter } from './letters'

/** At most so many copies and notices are drawn for one archive. */
const MOST_PAPERS = 300

const itemRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: z.enum(ITEM_KINDS),
  date: cell.text,
  due: cell.text,
  currency: cell.text,
  amount: cell.whole,
  open: cell.whole,
  level: cell.whole,
})
type ItemRow = z.output<typeof itemRow>

async function itemsOf(database: Handle, customerId: number): Promise<ItemRow[]> {
  return database.rows(
    itemRow,
    `SELECT i.id, i.number, i.kind, i.document_date AS date, i.due_date AS due, i.currency, i.amount, o.open,
      COALESCE((SELECT MAX(ni.level) FROM notice_item ni JOIN live_notice n ON n.id = ni.notice_id
        WHERE ni.item_id = i.id), 0) AS level
      FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.customer_id = :customerId
      ORDER BY i.due_date, i.id`,
    { customerId },
  )
}

/** Every entry of the time line, page by page. */
async function timelineOf(database: Handle, number: string): Promise<string[][]> {
  const rows: string[][] = []
  let cursor: string | undefined
  do {
    const page = await readTimeline(database, number, { limit: 200, cursor }, {})
    for (const e of page.items) rows.push([e.date, e.kind, e.title, e.text, e.by])
    cursor = page.next ?? undefined
  } while (cursor)
  return rows
}

/** A file name of a number: what no file system refuses. */
const fileOf = (number: string) => number.replace(/[^\w.-]/g, '_')

/**
 * All of an account for whom it was handed over to, as one archive: who it is, what is open, the notices,
 * what was said, copies of the documents and a statement.
 */
export async function handoverArchive(database: Handle, id: number): Promise<{ name: string; zip: Buffer }> {
  const handover = await readHandover(database, id)
  const { number } = handover.customer
  const zip = new JSZip()
  const [row] = await database.find('handover', { id }, { columns: { customerId: 'customer_id' } })
  const { customerId } = row!
  const { values } = await readMaster(database, number, {})
  zip.file(
    'account.csv',
    writeCsv(
      ['field', 'value'],
      [
        ['number', number],
        ['handed over to', handover.agency],
        ['on', handover.on],
        ['reason', handover.reason],
        ...Object.entries(values).map(([field, value]) => [field, value === null ? '' : String(value)]),
      ],
    ),
  )
  const items = await itemsOf(database, customerId)
  zip.file(
    'items.csv',
    writeCsv(
      ['number', 'kind', 'date', 'due', 'currency', 'amount', 'open', 'level'],
      [
        ...items.map(i => [
          i.number,
          i.kind,
          i.date,
          i.due,
          i.currency,
          toMajor(i.amount, i.currency),
          toMajor(i.open, i.currency),
          String(i.level),
        ]),
      ],
    ),
  )
  const notices = await database.find(
    'notice',
    { customer_id: customerId },
    {
      columns: {
        id: 'id',
        number: 'number',
        on: 'on_date',
        level: 'level',
        currency: 'currency',
        total: 'total',
        fee: 'fee',
        interest: 'interest',
        withdrawn: 'withdrawn_on',
      },
      order: [['id', 'DESC']],
      limit: MOST_PAPERS,
    },
  )
  zip.file(
    'notices.csv',
    writeCsv(
      ['number', 'date', 'level', 'currency', 'overdue', 'fee', 'interest', 'withdrawn'],
      [
        ...notices.map(n => [
          n.number,
          n.on,
          String(n.level),
          n.currency,
          toMajor(n.total, n.currency),
          toMajor(n.fee, n.currency),
          toMajor(n.interest, n.currency),
          n.withdrawn ?? '',
        ]),
      ],
    ),
  )
  for (const n of notices)
    zip.file(`notices/${fileOf(n.number)}.pdf`, (await noticeLetter(database, n.id)).pdf)
  const papers = items.filter(i => KINDS[i.kind].document)
  for (const i of papers.slice(0, MOST_PAPERS))
    zip.file(`copies/${fileOf(i.number)}.pdf`, await copyPdf(database, i.id, {}))
  zip.file(
    'timeline.csv',
    writeCsv(['date', 'kind', 'what', 'text', 'by'], await timelineOf(database, number)),
  )
  zip.file('statement.pdf', await statementPdf(database, number, { form: 'open-item' }, {}))
  return {
    name: `handover-${fileOf(number)}-${handover.on}`,
    zip: await zip.generateAsync({ type: 'nodebuffer', compression: 'DEFLATE' }),
  }
}
