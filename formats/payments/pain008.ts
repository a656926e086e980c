import { toMajor } from '../../core/money'
import { accountOf, agentOf, amountOf, documentXml, headOf, nameOf, partyOf, remittanceOf } from './build'
import { blockId, sumOf, type Amendment, type DebitFile } from './types'

/** A creditor identifier as the schemas wrap it. */
const creditorIdOf = (id: string): object => ({
  PrvtId: { Othr: { Id: id, SchmeNm: { Prtry: 'SEPA' } } },
})

/** What changed since the mandate was used last (SEPA direct debit rulebooks, AT-24, from memory). */
function amendmentOf(amended: Amendment | null, name: string): object {
  if (!amended) return {}
  const { reference, iban, creditorId } = amended
  return {
    AmdmntInd: 'true',
    AmdmntInfDtls: {
      ...(reference ? { OrgnlMndtId: reference } : {}),
      ...(creditorId ? { OrgnlCdtrSchmeId: { Nm: nameOf(name), Id: creditorIdOf(creditorId) } } : {}),
      ...(iban ? { OrgnlDbtrAcct: accountOf(iban) } : {}),
    },
  }
}

/**
 * Writes direct debits of one scheme: CORE and B2B never share a file. A block for each day and sequence,
 * booked as one sum.
 *
 * @throws RangeError for another currency than euro.
 */
export function writePain008(file: DebitFile): string {
  if (file.currency !== 'EUR') throw new RangeError('SEPA direct debits are in euro')
  const isNew = file.format === 'pain.008.001.08'
  const { own, blocks, currency } = file
  const all = blocks.flatMap(b => b.debits)
  return documentXml(file.format, 'CstmrDrctDbtInitn', {
    GrpHdr: headOf(file, all.length, sumOf(all)),
    PmtInf: blocks.map((block, place) => ({
      PmtInfId: blockId(file.id, place),
      PmtMtd: 'DD',
      BtchBookg: 'true',
      NbOfTxs: String(block.debits.length),
      CtrlSum: toMajor(sumOf(block.debits), currency),
      PmtTpInf: {
        SvcLvl: { Cd: 'SEPA' },
        LclInstrm: { Cd: file.scheme },
        SeqTp: block.sequence,
      },
      ReqdColltnDt: block.date,
      Cdtr: partyOf(own, isNew),
      CdtrAcct: accountOf(own.iban),
      CdtrAgt: agentOf(own.bic, isNew),
      ChrgBr: 'SLEV',
      CdtrSchmeId: { Id: creditorIdOf(file.creditorId) },
      DrctDbtTxInf: block.debits.map(d => ({
        PmtId: { EndToEndId: d.endToEndId },
        InstdAmt: amountOf(d.amount, currency),
        DrctDbtTx: {
          MndtRltdInf: {
            MndtId: d.mandate.reference,
            DtOfSgntr: d.mandate.signedOn,
            ...amendmentOf(d.mandate.amended, own.name),
          },
        },
        DbtrAgt: agentOf(d.party.bic, isNew),
        Dbtr: partyOf(d.party, isNew),
        DbtrAcct: accountOf(d.party.iban),
        ...remittanceOf(d.text),
      })),
    })),
  })
}
