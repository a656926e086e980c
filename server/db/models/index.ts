import { runNotice } from './runNotice'
import { collection } from './collection'
import { collectionItem } from './collectionItem'
import { collectionLeftOut } from './collectionLeftOut'
import { collectionRun } from './collectionRun'
import { mandate } from './mandate'
import { paymentAnswer } from './paymentAnswer'
import { paymentFile } from './paymentFile'
import { refund } from './refund'
import { recovery } from './recovery'
import { refundCheque } from './refundCheque'
import { writeOff } from './writeOff'
import { runLeftOut } from './runLeftOut'
import { reminderPolicyVersion } from './reminderPolicyVersion'
import { referenceRate } from './referenceRate'
import { interestLine } from './interestLine'
import { handoverCost } from './handoverCost'
import { compensation } from './compensation'
import { handover } from './handover'
import { accountDay } from './accountDay'
import { accountTotal } from './accountTotal'
import { allocation } from './allocation'
import { allowanceCase, allowanceCell, allowanceNamed, allowanceRun } from './allowance'
import { audit } from './audit'
import { bankAccount } from './bankAccount'
import { bankLine } from './bankLine'
import { bankMatch } from './bankMatch'
import { bankMatchTarget } from './bankMatchTarget'
import { bankStatement } from './bankStatement'
import { batch } from './batch'
import { batchReceipt } from './batchReceipt'
import { closing } from './closing'
import { contact } from './contact'
import { customer } from './customer'
import { customerClass } from './customerClass'
import { customerMerge } from './customerMerge'
import { deduction } from './deduction'
import { deputy } from './deputy'
import { entry } from './entry'
import {
  factorAnswer,
  factorEvent,
  factorFacility,
  factorItem,
  factorPassed,
  factorSchedule,
} from './factoring'
import { hold } from './hold'
import { insolvencyClaim } from './insolvencyClaim'
import { idempotency } from './idempotency'
import { importLayout } from './importLayout'
import { inboxFault } from './inboxFault'
import { item } from './item'
import { job } from './job'
import { journalLine } from './journalLine'
import { keptFigure } from './keptFigure'
import { ledgerAccount } from './ledgerAccount'
import { ledgerRule } from './ledgerRule'
import { note } from './note'
import { notice } from './notice'
import { noticeItem } from './noticeItem'
import { openItem } from './openItem'
import { outbox } from './outbox'
import { pause } from './pause'
import { portFault } from './portFault'
import { payerHabit } from './payerHabit'
import { payerLearnt } from './payerLearnt'
import { forecastRecord } from './forecastRecord'
import { whatIf } from './whatIf'
import { plannedPayment } from './plannedPayment'
import { person } from './person'
import { putRight } from './putRight'
import { rate } from './rate'
import { receiptMeans } from './receiptMeans'
import { reminderPolicy } from './reminderPolicy'
import { reminderRun } from './reminderRun'
import { reviewModel } from './reviewModel'
import { reviewScore } from './reviewScore'
import { salesOrder } from './salesOrder'
import { savedView } from './savedView'
import { series } from './series'
import { session } from './session'
import { setting } from './setting'
import { signInCount } from './signInCount'
import { signOffComment } from './signOffComment'
import { slip } from './slip'
import { slipMeans } from './slipMeans'
import { sundryReceipt } from './sundryReceipt'
import { waitingCommand } from './waitingCommand'
import { promise } from './promise'
import { promiseItem } from './promiseItem'
import { promisePart } from './promisePart'
import { dispute } from './dispute'
import { disputeItem } from './disputeItem'
import { callLog } from './callLog'
import { message } from './message'
import { attachment } from './attachment'
import { sentLetter } from './sentLetter'
import { inbox } from './inbox'
import type { RowOf } from './columns'

/** Every table, by name: the data dictionary. A test holds it against the schema that the migrations make. */
export const TABLES = {
  account_day: accountDay,
  account_total: accountTotal,
  allocation,
  allowance_case: allowanceCase,
  allowance_cell: allowanceCell,
  allowance_named: allowanceNamed,
  allowance_run: allowanceRun,
  audit,
  bank_account: bankAccount,
  bank_line: bankLine,
  bank_match: bankMatch,
  bank_match_target: bankMatchTarget,
  bank_statement: bankStatement,
  batch,
  batch_receipt: batchReceipt,
  closing,
  contact,
  customer,
  customer_class: customerClass,
  customer_merge: customerMerge,
  deduction,
  deputy,
  entry,
  factor_answer: factorAnswer,
  factor_event: factorEvent,
  factor_facility: factorFacility,
  factor_item: factorItem,
  planned_payment: plannedPayment,
  what_if: whatIf,
  forecast_record: forecastRecord,
  factor_passed: factorPassed,
  factor_schedule: factorSchedule,
  hold,
  insolvency_claim: insolvencyClaim,
  idempotency,
  import_layout: importLayout,
  inbox_fault: inboxFault,
  item,
  job,
  journal_line: journalLine,
  kept_figure: keptFigure,
  ledger_account: ledgerAccount,
  ledger_rule: ledgerRule,
  note,
  notice,
  notice_item: noticeItem,
  open_item: openItem,
  outbox,
  pause,
  port_fault: portFault,
  collection,
  collection_item: collectionItem,
  collection_left_out: collectionLeftOut,
  collection_run: collectionRun,
  mandate,
  payment_answer: paymentAnswer,
  payment_file: paymentFile,
  refund,
  refund_cheque: refundCheque,
  recovery,
  write_off: writeOff,
  compensation,
  run_notice: runNotice,
  run_left_out: runLeftOut,
  reminder_policy_version: reminderPolicyVersion,
  reference_rate: referenceRate,
  interest_line: interestLine,
  handover_cost: handoverCost,
  handover,
  payer_habit: payerHabit,
  payer_learnt: payerLearnt,
  person,
  put_right: putRight,
  rate,
  receipt_means: receiptMeans,
  reminder_policy: reminderPolicy,
  reminder_run: reminderRun,
  review_model: reviewModel,
  review_score: reviewScore,
  inbox,
  sent_letter: sentLetter,
  attachment,
  message,
  call_log: callLog,
  dispute_item: disputeItem,
  dispute,
  promise_part: promisePart,
  promise_item: promiseItem,
  promise,
  sales_order: salesOrder,
  saved_view: savedView,
  series,
  session,
  setting,
  sign_in_count: signInCount,
  sign_off_comment: signOffComment,
  slip,
  slip_means: slipMeans,
  sundry_receipt: sundryReceipt,
  waiting_command: waitingCommand,
}

export type TableName = keyof typeof TABLES
/** A row of a table as it is read. */
export type Row<Name extends TableName> = RowOf<(typeof TABLES)[Name]>
/** A row as it is written: what the database fills in by itself may be left out. */
export type NewRow<Name extends TableName> = Partial<Row<Name>>
