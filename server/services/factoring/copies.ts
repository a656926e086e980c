import { z } from 'zod'
import { cell } from '../../db/rows'
import JSZip from 'jszip'
import { writeUblInvoice, type UblParty } from '../../../formats/ubl'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import type { SheetFile } from '../common/sheet'
import { notFound } from '../common/problems'

const copyRow = z.object({
  number: cell.text,
  date: cell.text,
  due: cell.text,
  currency: cell.text,
  amount: cell.whole,
  tax: cell.whole,
  text: cell.text,
  name: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  taxNumber: cell.text,
})
/** The invoices of a schedule as UBL, together in one ZIP. */
export async function scheduleCopies(database: Handle, scheduleId: number): Promise<SheetFile> {
  const { company, house } = await readSettings(database)
  const [schedule] = await database.find('factor_schedule', { id: scheduleId }, { columns: ['number'] })
  if (!schedule) throw notFound(`schedule ${scheduleId}`)
  const rows = await database.rows(
    copyRow,
    `SELECT i.number, i.document_date AS date, COALESCE(i.due_date, i.document_date) AS due, i.currency, i.amount,
      COALESCE(i.tax, 0) AS tax, i.text, c.name, c.street, c.postcode, c.city, c.country, c.vat_number AS taxNumber
      FROM factor_item t JOIN item i ON i.id = t.item_id JOIN customer c ON c.id = i.customer_id
      WHERE t.schedule_id = :scheduleId ORDER BY t.id`,
    { scheduleId },
  )
  const seller: UblParty = {
    name: company,
    street: house.street,
    postcode: house.postcode,
    city: house.city,
    country: house.country,
    taxNumber: house.vatNumber,
  }
  const zip = new JSZip()
  for (const { number, date, due, currency, amount, tax, text, ...buyer } of rows)
    zip.file(
      `${number.replace(/[^\w.-]/g, '_')}.xml`,
      writeUblInvoice({ number, date, due, currency, amount, tax, text, seller, buyer }),
    )
  const bytes = await zip.generateAsync({ type: 'nodebuffer', compression: 'DEFLATE' })
  return { name: `${schedule.number}.zip`, type: 'application/zip', bytes }
}
