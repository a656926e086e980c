import { toMajor } from '../../core/money'
import { accountOf, agentOf, amountOf, documentXml, headOf, partyOf, remittanceOf } from './build'
import { blockId, sumOf, type TransferFile } from './types'

/**
 * Writes customer credit transfers. Version 03 is for euro in the SEPA; 09 also for other currencies and with
 * structured addresses. One block: one account, one day.
 *
 * @throws RangeError for version 03 in another currency than euro.
 */
export function writePain001(file: TransferFile): string {
  const isNew = file.format === 'pain.001.001.09'
  const isSepa = file.currency === 'EUR'
  if (!isNew && !isSepa) throw new RangeError('pain.001.001.03 is for euro: use pain.001.001.09')
  const { payments, currency, own } = file
  const sum = sumOf(payments)
  return documentXml(file.format, 'CstmrCdtTrfInitn', {
    GrpHdr: headOf(file, payments.length, sum),
    PmtInf: {
      PmtInfId: blockId(file.id, 0),
      PmtMtd: 'TRF',
      BtchBookg: 'true',
      NbOfTxs: String(payments.length),
      CtrlSum: toMajor(sum, currency),
      ...(isSepa ? { PmtTpInf: { SvcLvl: { Cd: 'SEPA' } } } : {}),
      ReqdExctnDt: isNew ? { Dt: file.date } : file.date,
      Dbtr: partyOf(own, isNew),
      DbtrAcct: { ...accountOf(own.iban), ...(isNew ? { Ccy: currency } : {}) },
      DbtrAgt: agentOf(own.bic, isNew),
      // Each pays the charges of its own bank, as the SEPA wants it; elsewhere they are shared.
      ChrgBr: isSepa ? 'SLEV' : 'SHAR',
      CdtTrfTxInf: payments.map(p => ({
        PmtId: { EndToEndId: p.endToEndId },
        Amt: { InstdAmt: amountOf(p.amount, currency) },
        ...(p.party.bic ? { CdtrAgt: agentOf(p.party.bic, isNew) } : {}),
        Cdtr: partyOf(p.party, isNew),
        CdtrAcct: accountOf(p.party.iban),
        ...remittanceOf(p.text),
      })),
    },
  })
}
