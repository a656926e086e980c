import { instant, key, table, text, whole } from './columns'

/** What the bank answered to a file of payments (pain.002). */
export const paymentAnswer = table('payment_answer', ['id'], {
  id: key(''),
  file_id: whole('of payment_file'),
  message_id: text(40, 'of the answer'),
  file_name: text(120, ''),
  file_hash: text(64, 'SHA-256'),
  status: text(8, 'of the whole file, as ISO 20022 has it; empty when only payments are told'),
  refused: whole('payments it refuses'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
