import type { BankAnswer } from '../../core/payments'
import { StatementFault } from '../statements/types'
import { all, at, readXml, textAt, type XmlNode } from '../statements/xml'
import { documentXml } from './build'

const ROOT = 'CstmrPmtStsRpt'

/** Whether a file is a report on payments, without reading all of it. */
export const isAnswer = (text: string): boolean => text.slice(0, 4000).includes(ROOT)

/** Why, in code and words, of a group, block or payment. */
const reasonIn = (node: XmlNode): { code: string; text: string } => {
  const info = at(node, 'StsRsnInf')
  return {
    code: textAt(info, 'Rsn.Cd') || textAt(info, 'Rsn.Prtry'),
    text: all(info, 'AddtlInf')
      .map(t => textAt(t, ''))
      .join(' ')
      .slice(0, 200),
  }
}

/** Reads a pain.002, versions 03 to 12. Throws StatementFault. */
export function readPain002(text: string): BankAnswer {
  const report = at(readXml(text), `Document.${ROOT}`)
  if (!report) throw new StatementFault('this is no report on payments', 'Document', 'choose a pain.002 file')
  const group = at(report, 'OrgnlGrpInfAndSts')
  const fileId = textAt(group, 'OrgnlMsgId')
  if (!fileId)
    throw new StatementFault(
      'the report does not tell which file it answers',
      'OrgnlGrpInfAndSts.OrgnlMsgId',
      'ask the bank for it again',
    )
  const blocks = all(report, 'OrgnlPmtInfAndSts')
  return {
    id: textAt(report, 'GrpHdr.MsgId'),
    fileId,
    status: textAt(group, 'GrpSts'),
    ...reasonIn(group!),
    blocks: blocks.map(b => ({
      id: textAt(b, 'OrgnlPmtInfId'),
      status: textAt(b, 'PmtInfSts'),
      ...reasonIn(b),
    })),
    payments: blocks.flatMap(b =>
      all(b, 'TxInfAndSts').map(t => ({
        endToEndId: textAt(t, 'OrgnlEndToEndId'),
        status: textAt(t, 'TxSts'),
        ...reasonIn(t),
      })),
    ),
  }
}

/** What a bank reports on. */
export interface ReportOn {
  answer: BankAnswer
  /** Such as `pain.008.001.02`. */
  of: string
  createdAt: string
  bank: { name: string; bic: string }
  blockOf: (endToEndId: string) => string
}

/** Writes a pain.002.001.10: what the simulated bank answers with. */
export function writePain002({ answer, of, createdAt, bank, blockOf }: ReportOn): string {
  const reasonOf = ({ code, text }: { code: string; text: string }): object =>
    code ? { StsRsnInf: { Rsn: { Cd: code }, ...(text ? { AddtlInf: text.slice(0, 105) } : {}) } } : {}
  const byBlock = new Map<string, BankAnswer['payments']>()
  for (const p of answer.payments) {
    const id = blockOf(p.endToEndId)
    byBlock.set(id, [...(byBlock.get(id) ?? []), p])
  }
  return documentXml('pain.002.001.10', ROOT, {
    GrpHdr: {
      MsgId: answer.id,
      CreDtTm: createdAt,
      InitgPty: { Nm: bank.name },
    },
    OrgnlGrpInfAndSts: {
      OrgnlMsgId: answer.fileId,
      OrgnlMsgNmId: of,
      ...(answer.status ? { GrpSts: answer.status } : {}),
      ...reasonOf(answer),
    },
    ...(byBlock.size
      ? {
          OrgnlPmtInfAndSts: [...byBlock].map(([id, payments]) => ({
            OrgnlPmtInfId: id,
            TxInfAndSts: payments.map(p => ({
              OrgnlEndToEndId: p.endToEndId,
              TxSts: p.status,
              ...reasonOf(p),
            })),
          })),
        }
      : {}),
  })
}
