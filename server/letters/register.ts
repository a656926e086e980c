import type { BatchDetail } from '../../contract/receipts/batches'
import { letterDocument } from './paper'
import { formatDate, formatMoney } from './text'

/** The register of a batch: every receipt, what it was for, and the totals against the control figures. */
export function registerPdf(batch: BatchDetail, company: string): Promise<Buffer> {
  const { doc, ended, text, row, rule } = letterDocument(company, `Register of batch ${batch.number ?? ''}`)
  const money = (amount: number) => formatMoney(amount, batch.currency, 'en')
  text(`Register of batch ${batch.number ?? 'not closed'}`, 64, 120, { size: 16, font: 'serif' })
  text(
    `${formatDate(batch.date, 'en')}, keyed by ${batch.by}${batch.text ? `, ${batch.text}` : ''}`,
    64,
    146,
    { soft: true },
  )
  let y = 180
  const columns = [
    { at: 0, w: 62 },
    { at: 62, w: 132 },
    { at: 194, w: 92 },
    { at: 286, w: 92 },
    { at: 378, w: 89, right: true },
  ]
  const line = (cells: string[], bold = false, soft = false) => {
    if (y > doc.page.height - 90) {
      doc.addPage()
      y = 60
    }
    row(cells, columns, y, { bold, soft })
    y += 17
    rule(y - 4)
  }
  const short = (s: string, n: number) => (s.length > n ? `${s.slice(0, n - 1)}…` : s)
  line(['Receipt', 'Customer', 'By', 'For', 'Amount'], false, true)
  for (const r of batch.receipts)
    line([
      r.receipt?.number ?? '',
      short(r.customer.name, 26),
      short(`${r.means} ${r.reference}`, 18),
      short(r.items.length ? r.items.join(', ') : 'on account', 18),
      money(r.amount),
    ])
  line(['', `${batch.count} receipts`, '', '', money(batch.total)], true)
  if (batch.controlTotal !== null) line(['', 'Control total', '', '', money(batch.controlTotal)])
  if (batch.controlCount !== null) line(['', 'Control count', '', '', String(batch.controlCount)])
  if (batch.toGo !== null) line(['', 'Difference', '', '', money(batch.toGo)], true)
  doc.end()
  return ended
}
