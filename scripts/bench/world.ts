import { migrate } from '../../server/db/migrate'
import { seedBasics } from '../../server/db/seed'
import { writeSetting } from '../../server/db/settings'
import { addBankAccount } from '../../server/services/banking/accounts'
import { CUSTOMERS, database, INVOICES, OPEN, RECEIPTS, TODAY } from './base'

const run = (sql: string) => database.run(sql)

/** Builds the books in bulk, as the door would have written them. */
export async function build(): Promise<void> {
  await migrate(database)
  await seedBasics(database)
  await run(
    `INSERT INTO person (email, name, role, password_hash)
      VALUES ('bench@example.org', 'Bench', 'supervisor', 'x')`,
  )
  await writeSetting(database, 1, 'clock', TODAY)
  await run(
    `INSERT INTO customer (id, number, name, class, country, language, currency, terms, person_id)
      SELECT seq, CONCAT('B', LPAD(seq, 6, '0')), CONCAT('Bench customer ', seq), ELT(1 + seq % 4, 'food',
      'feed', 'care', 'fish'), 'IE', 'en', 'EUR', 'net 30', 1 FROM seq_1_to_${CUSTOMERS}`,
  )
  // Invoices, then receipts that pay the first so many of them in full: one entry each, written in bulk as
  // the door would.
  const date = (seq: string, span: number) => `DATE_SUB('${TODAY}', INTERVAL (${seq} * 7919 % ${span}) DAY)`
  const customer = (seq: string) => `1 + (${seq} * 104729 % ${CUSTOMERS})`
  const amount = (seq: string) => `1000 + (${seq} * 6151 % 900000)`
  const closed = INVOICES - OPEN
  await run(
    `INSERT INTO entry (id, number, date, kind, text, person_id)
      SELECT seq, seq, ${date('seq', 720)}, 'document', 'Bench', 1 FROM seq_1_to_${INVOICES}`,
  )
  await run(`INSERT INTO item (id, customer_id, entry_id, kind, register, number, part, currency, side,
    amount, base_amount, tax, document_date, due_date, posting_date, person_id)
    SELECT seq, ${customer('seq')}, seq, 'invoice', 'document', CONCAT('I', seq), 1, 'EUR', 'debit',
      ${amount('seq')}, ${amount('seq')}, 0, ${date('seq', 720)}, DATE_ADD(${date('seq', 720)},
      INTERVAL 30 DAY), ${date('seq', 720)}, 1 FROM seq_1_to_${INVOICES}`)
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '1100', 'EUR', amount, amount, customer_id, id FROM item`,
  )
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '4000', 'EUR', -amount, -amount, customer_id, id FROM item`,
  )
  const paid = (seq: string) =>
    `LEAST('${TODAY}', DATE_ADD(${date(seq, 720)}, INTERVAL 20 + ${seq} % 40 DAY))`
  await run(
    `INSERT INTO entry (id, number, date, kind, text, person_id)
      SELECT ${INVOICES} + seq, ${INVOICES} + seq, ${paid('seq')}, 'receipt', 'Bench', 1
      FROM seq_1_to_${RECEIPTS}`,
  )
  await run(`INSERT INTO item (id, customer_id, entry_id, kind, register, number, part, currency, side,
    amount, base_amount, tax, document_date, due_date, posting_date, person_id)
    SELECT ${INVOICES} + seq, ${customer('seq')}, ${INVOICES} + seq, 'receipt', 'receipt', CONCAT('R-',
      LPAD(seq, 6, '0')), 1, 'EUR', 'credit', ${amount('seq')}, ${amount('seq')}, 0, ${paid('seq')},
      ${paid('seq')}, ${paid('seq')}, 1 FROM seq_1_to_${RECEIPTS}`)
  // One in five was keyed before the bank showed it, and settled since, but for the last few.
  const waits = INVOICES + RECEIPTS - Math.round(RECEIPTS / 500)
  const restsIn = `IF(id % 5 = 0 OR id > ${waits}, '1220', '1200')`
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, ${restsIn}, 'EUR', amount, amount, customer_id, id FROM item WHERE id > ${INVOICES}`,
  )
  // What the bank has shown since moved from clearing to the bank.
  for (const [account, sign] of [
    ['1220', '-'],
    ['1200', ''],
  ])
    await run(
      `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount)
        SELECT id, '${account}', 'EUR', ${sign}amount, ${sign}amount FROM item
        WHERE id > ${INVOICES} AND id <= ${waits} AND id % 5 = 0`,
    )
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '1100', 'EUR', -amount, -amount, customer_id, id FROM item WHERE id > ${INVOICES}`,
  )
  await run(`INSERT INTO allocation (customer_id, entry_id, debit_item_id, credit_item_id, amount, debit_base,
    credit_base, effective, person_id)
    SELECT customer_id, id, id - ${INVOICES}, id, amount, amount, amount, posting_date, 1 FROM item
      WHERE id > ${INVOICES}`)
  await run(
    `INSERT INTO open_item SELECT id, customer_id, currency, due_date, document_date, posting_date, amount,
      base_amount FROM item WHERE id > ${closed} AND id <= ${INVOICES}`,
  )
  await run(
    `INSERT INTO account_total SELECT customer_id, currency, SUM(IF(id > ${closed}
      AND side = 'debit', amount, 0)), 0, SUM(IF(id > ${closed} AND side = 'debit', amount, 0)), 0 FROM item
      GROUP BY customer_id, currency`,
  )
  await run(
    `INSERT INTO account_day SELECT l.account, e.date, l.currency, SUM(l.amount), SUM(l.base_amount)
      FROM journal_line l JOIN entry e ON e.id = l.entry_id GROUP BY l.account, e.date, l.currency`,
  )
  await run(`UPDATE series SET next = ${INVOICES + RECEIPTS + 1} WHERE name = 'entry'`)
  await run(`UPDATE series SET next = ${RECEIPTS + 1} WHERE name = 'receipt'`)
  for (const table of ['entry', 'item', 'allocation'])
    await run(`UPDATE series SET next = (SELECT MAX(id) + 1 FROM ${table}) WHERE name = '${table}-id'`)
  await run(
    `INSERT INTO receipt_means (item_id, means, amount, base_amount, reference, account)
      SELECT id, 'transfer', amount, base_amount, CONCAT('T', id), ${restsIn} FROM item WHERE id >
      ${INVOICES}`,
  )
  await addBankAccount(database, 1, {
    name: 'Bench',
    iban: 'DE89370400440532013000',
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  await run(
    `INSERT INTO bank_statement (bank_account_id, number, format, from_date, to_date, opening, closing,
      file_name, file_hash, fresh, known, person_id)
      VALUES (1, 'BENCH', 'camt.053', '${TODAY}', '${TODAY}', 0, 0, '', '', 0, 0, 1)`,
  )
  await run(`INSERT INTO bank_line (bank_account_id, statement_id, fingerprint, occurrence, booking_date,
    value_date, currency, amount, name, iban, text, reference, end_to_end_id, bank_reference, code,
    return_reason, state)
    SELECT 1, 1, SHA2(id, 256), 1, posting_date, posting_date, 'EUR', amount, '', '', number, '', '',
      CONCAT('L', id), '', '', 'settled' FROM item WHERE id > ${INVOICES} AND id <= ${waits}`)
  await run(
    `INSERT INTO bank_match (line_id, kind, entry_id, told, person_id)
      SELECT l.id, IF(i.id % 5 = 0, 'covered', 'receipt'), i.entry_id, 'Bench', 1 FROM bank_line l
      JOIN item i ON i.number = l.text AND i.register = 'receipt'`,
  )
  await run(
    `INSERT INTO bank_match_target (match_id, kind, ref_id)
      SELECT b.id, IF(b.kind = 'covered', 'means', 'receipt'), IF(b.kind = 'covered', m.id, m.item_id)
      FROM bank_match b JOIN item i ON i.entry_id = b.entry_id AND i.kind = 'receipt'
      JOIN receipt_means m ON m.item_id = i.id`,
  )
  await run(
    `UPDATE receipt_means m SET met = EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'means'
      AND t.ref_id = m.id)`,
  )
  await run(
    `ANALYZE TABLE item, allocation, open_item, journal_line, entry, customer, account_day, receipt_means,
      bank_line, bank_match, bank_match_target`,
  )
}
