import type { AnyCommand } from '../ledger/command'
import { classLimitCommand } from './accounts/classes'
import { confirmBankCommand } from './accounts/master/bank'
import { limitCommand } from './accounts/master/limit'
import { acceptLineCommand } from './banking/accept'
import { acceptLinesCommand } from './banking/clear'
import { slipCommand, slipVoidCommand } from './banking/paying'
import { unmatchCommand } from './banking/unmatch'
import { releaseCommand } from './exposure/holds'
import { closeBatchCommand } from './receipts/closeBatch'
import { allocateCommand, receiveCommand, reverseCommand, unallocateCommand } from './receipts/commands'
import { putRightCommand } from './receipts/putRight'
import { sundryCommand, sundryVoidCommand } from './receipts/sundry'
import { tickedCommand } from './receipts/ticked'
import { callCommand } from './callList/calls'
import { collectCommand } from './collections/collect'
import { confirmCollectionCommand } from './collections/confirm'
import { allowanceCommand, undoAllowanceCommand } from './impairment/allowance'
import { recoverCommand } from './impairment/recovery'
import { reliefCommand, undoWriteOffCommand, writeOffCommand } from './impairment/writeOff'
import { answerCommand } from './factoring/answers'
import { passOnCommand, shortCommand, undoPassOnCommand } from './factoring/close'
import { offerCommand } from './factoring/offer'
import { returnCommand } from './collections/returns'
import { lapseCommand } from './refunds/lapse'
import { refundCommand } from './refunds/post'
import { undoRefundCommand } from './refunds/undo'
import { disputeCommand } from './disputes/open'
import { resolveCommand } from './disputes/resolve'
import { promiseCommand } from './promises/promises'
import { claimCommand } from './reminders/claims'
import { costCommand } from './reminders/handover'
import { confirmCommand } from './reminders/confirm'
import { goodwillCommand } from './reminders/goodwill'
import { withdrawCommand } from './reminders/withdraw'

/**
 * Every Command that can be stored and decided again later. An import is not among them: its file is not
 * kept.
 */
export const COMMANDS: readonly AnyCommand[] = [
  receiveCommand,
  allocateCommand,
  unallocateCommand,
  reverseCommand,
  putRightCommand,
  tickedCommand,
  closeBatchCommand,
  sundryCommand,
  sundryVoidCommand,
  slipCommand,
  slipVoidCommand,
  acceptLineCommand,
  acceptLinesCommand,
  unmatchCommand,
  confirmCommand,
  withdrawCommand,
  goodwillCommand,
  claimCommand,
  costCommand,
  limitCommand,
  confirmBankCommand,
  releaseCommand,
  classLimitCommand,
  callCommand,
  promiseCommand,
  disputeCommand,
  resolveCommand,
  refundCommand,
  undoRefundCommand,
  lapseCommand,
  confirmCollectionCommand,
  collectCommand,
  returnCommand,
  writeOffCommand,
  undoWriteOffCommand,
  reliefCommand,
  recoverCommand,
  allowanceCommand,
  undoAllowanceCommand,
  offerCommand,
  answerCommand,
  shortCommand,
  passOnCommand,
  undoPassOnCommand,
]

export function commandNamed(name: string): AnyCommand {
  const found = COMMANDS.find(c => c.name === name)
  if (!found) throw new Error(`there is no Command ${name}`)
  return found
}
