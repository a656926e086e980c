import type { Facility } from '../../../core/factoring'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { assignmentSheet } from '../letters/paymentSheets'
import { addressee, sendLetter } from '../letters/send'
import type { OpenInvoice } from './candidates'

/** Tells each debtor, in the transaction of the offer, whom its invoices are paid to from now on. */
export async function tellDebtors(
  tx: Handle,
  actor: { id: number },
  facility: Facility,
  schedule: string,
  invoices: readonly OpenInvoice[],
): Promise<void> {
  const settings = await readSettings(tx)
  const [row] = await tx.find('factor_facility', { id: facility.id }, { columns: ['iban'] })
  const byDebtor = new Map<number, OpenInvoice[]>()
  for (const i of invoices) byDebtor.set(i.customerId, [...(byDebtor.get(i.customerId) ?? []), i])
  for (const [customerId, own] of byDebtor) {
    const to = await addressee(tx, customerId)
    const sheet = assignmentSheet(settings, to, {
      schedule,
      factor: facility.name,
      iban: row!.iban,
      currency: own[0]!.currency,
      items: own.map(i => ({ number: i.number, due: i.dueDate, amount: i.open })),
    })
    await sendLetter(tx, actor, to, { kind: 'assignment', sheet, asOf: settings.today, jobId: null })
  }
}
