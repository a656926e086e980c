import { isValidBIC, isValidIBAN } from 'ibantools'
import { addBankWorkingDays, isBankWorkingDay, isIsoDate, type IsoDate } from '../../core/calendar'
import { isCurrency, toMajor } from '../../core/money'
import { creditorIdFault, isReached } from '../../core/payments'
import type { ReadBlock, ReadFile, ReadPayment } from './read'
import { referenceFault } from './text'

/**
 * Why a bank would refuse a file, or a payment of it, as no schema can see: counts and sums, account numbers,
 * references that come twice, days on which no bank works. The codes are those of ISO 20022 (external status
 * reasons, from memory).
 */
export interface FileFault {
  code:
    'AM10' | 'AM18' | 'AM05' | 'AC01' | 'BE09' | 'RC01' | 'DT01' | 'FF05' | 'MD01' | 'RR12' | 'AM01' | 'AM03'
  /** The payment it is about; null: the whole file. */
  endToEndId: string | null
  message: string
}

/** What an amount may be in the SEPA: one cent up to 999,999,999.99 (EPC implementation guidelines, mem). */
const MOST = 99_999_999_999

/** All that is wrong with a file that is taken in on a day. */
export function fileFaults(file: ReadFile, today: IsoDate): FileFault[] {
  const payments = file.blocks.flatMap(b => b.payments)
  const faults: FileFault[] = []
  const whole = (code: FileFault['code'], message: string) => faults.push({ code, endToEndId: null, message })
  const fault = referenceFault(file.id)
  if (fault) whole('RR12', `message id "${file.id}": ${fault}`)
  if (file.count !== payments.length)
    whole('AM18', `the head counts ${file.count ?? 'nothing'}, the file holds ${payments.length} payments`)
  if (!isSum(file.sum, payments)) whole('AM10', `the control sum ${file.sum} is not that of the payments`)
  if (!payments.length) whole('AM18', 'the file holds no payment')
  const blockIds = file.blocks.map(b => b.id)
  if (new Set(blockIds).size !== blockIds.length) whole('AM05', 'two blocks have the same id')
  for (const block of file.blocks) faults.push(...blockFaults(block, file.kind, today))
  const seen = new Set<string>()
  for (const { endToEndId } of payments) {
    if (seen.has(endToEndId))
      faults.push({ code: 'AM05', endToEndId, message: `${endToEndId} comes twice in the file` })
    seen.add(endToEndId)
  }
  return faults
}

function isSum(told: string, payments: readonly ReadPayment[]): boolean {
  const [first] = payments
  if (!first || !isCurrency(first.currency)) return false
  const sum = payments.reduce((a, p) => a + (p.amount ?? 0), 0)
  return told === toMajor(sum, first.currency)
}

function blockFaults(block: ReadBlock, kind: ReadFile['kind'], today: IsoDate): FileFault[] {
  const faults: FileFault[] = []
  const whole = (code: FileFault['code'], message: string) =>
    faults.push({ code, endToEndId: null, message: `block ${block.id}: ${message}` })
  if (block.count !== block.payments.length)
    whole('AM18', `it counts ${block.count ?? 'nothing'} and holds ${block.payments.length} payments`)
  if (!isSum(block.sum, block.payments))
    whole('AM10', `its control sum ${block.sum} is not that of its payments`)
  if (!isValidIBAN(block.own.iban)) whole('AC01', `our account ${block.own.iban} is no IBAN`)
  if (!isIsoDate(block.date) || !isBankWorkingDay(block.date))
    whole('DT01', `${block.date} is no day on which banks work`)
  else if (kind === 'transfer' ? block.date < today : block.date < addBankWorkingDays(today, 1))
    whole('DT01', `${block.date} is too early for a file of ${today}`)
  if (kind === 'debit') {
    const fault = creditorIdFault(block.creditorId)
    if (fault) whole('BE09', `creditor identifier ${block.creditorId}: ${fault}`)
    if (block.scheme !== 'CORE' && block.scheme !== 'B2B') whole('FF05', `"${block.scheme}" is no scheme`)
  }
  for (const payment of block.payments) faults.push(...paymentFaults(payment, block, kind))
  return faults
}

function paymentFaults(p: ReadPayment, block: ReadBlock, kind: ReadFile['kind']): FileFault[] {
  const faults: FileFault[] = []
  const add = (code: FileFault['code'], message: string) =>
    faults.push({ code, endToEndId: p.endToEndId, message: `${p.endToEndId}: ${message}` })
  const reference = referenceFault(p.endToEndId)
  if (reference) add('RR12', reference)
  if (!isValidIBAN(p.iban)) add('AC01', `${p.iban} is no IBAN`)
  else if ((kind === 'debit' || block.payments[0]?.currency === 'EUR') && !isReached(p.iban))
    add('AC01', `the SEPA does not reach ${p.iban.slice(0, 2)}`)
  if (p.bic && !isValidBIC(p.bic)) add('RC01', `${p.bic} is no BIC`)
  if (p.amount === null || p.amount <= 0) add('AM01', 'no amount above zero')
  else if (p.amount > MOST) add('AM01', 'more than a payment may be')
  if (kind === 'debit' && p.currency !== 'EUR') add('AM03', `${p.currency} is not collected in the SEPA`)
  if (kind === 'debit') {
    const { mandate } = p
    if (!mandate || referenceFault(mandate.reference)) add('MD01', 'its mandate has no reference')
    else if (!isIsoDate(mandate.signedOn) || mandate.signedOn > block.date)
      add('MD01', `its mandate was signed on ${mandate.signedOn}, after the collection`)
  }
  return faults
}
