import type { SlipDetail } from '../../contract/banking/slips'
import { formatDate, formatMoney } from './text'
import { letterDocument } from './paper'

/**
 * The paying-in slip for the bank's counter: every cheque with its number and drawer, the cash, what is kept
 * back, the total.
 */
export function slipPdf(slip: SlipDetail, company: string): Promise<Buffer> {
  const { doc, ended, text, row, rule } = letterDocument(company, `Paying-in slip ${slip.number}`)
  const money = (amount: number) => formatMoney(amount, slip.currency, 'en')
  text(`Paying-in slip ${slip.number}`, 64, 120, { size: 16, font: 'serif' })
  text(`${formatDate(slip.date, 'en')}${slip.voided ? `, void: ${slip.voidReason}` : ''}`, 64, 146, {
    soft: true,
  })
  let y = 180
  const columns = [
    { at: 0, w: 90 },
    { at: 90, w: 110 },
    { at: 200, w: 160 },
    { at: 360, w: 107, right: true },
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
  line(['Cheque', 'Receipt', 'Drawer', 'Amount'], false, true)
  const cheques = slip.means.filter(m => m.means === 'cheque')
  const cash = slip.means.filter(m => m.means === 'cash').reduce((a, m) => a + m.amount, 0)
  for (const m of cheques) line([m.reference, m.receipt, m.customer.name, money(m.amount)])
  line([`${cheques.length} cheques`, '', '', money(slip.total - cash)], true)
  if (cash) line(['Cash', '', '', money(cash)])
  if (slip.cashKept) line(['Kept for petty cash', '', '', money(-slip.cashKept)])
  line(['To the bank', '', '', money(slip.banked)], true)
  doc.end()
  return ended
}
