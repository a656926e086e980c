import { accounts } from '../../contract/accounts'
import { callList } from '../../contract/callList'
import { sheetPdf, type LetterSheet } from '../../server/letters/sheet'
import { readTimeline } from '../../server/services/accounts/timeline'
import { readCallList } from '../../server/services/callList/callList'
import { runStatements } from '../../server/services/letters/statements'
import { actor, CUSTOMERS, database, say, small, TODAY } from './base'
import { tell, timed } from './image'

const STATEMENTS = small ? 100 : 10_000
const ENTRIES = small ? 200 : 20_000

/** The call list of everybody, and the time line of an account with many entries. */
export async function lists(): Promise<void> {
  await database.run(
    `INSERT INTO call_log (customer_id, on_date, outcome, spoke_with, text, next_date, person_id)
      SELECT 1 + seq % ${CUSTOMERS}, DATE_SUB('${TODAY}', INTERVAL 1 + seq % 600 DAY),
        ELT(1 + seq % 3, 'reached', 'not-reached', 'copies'), '', 'bench', NULL, 1 FROM seq_1_to_${small ? 2000 : 200_000}`,
  )
  const query = callList.list.query!.parse({ of: 'all' })
  const list = await timed(5, () => readCallList(database, actor, query, {}))
  tell('Call list of all customers', `${list.toFixed(0)} ms (goal 1000)`)
  await database.run(
    `INSERT INTO call_log (customer_id, on_date, outcome, text, person_id)
      SELECT 1, DATE_SUB('${TODAY}', INTERVAL 1 + seq % 700 DAY), 'reached', CONCAT('call ', seq), 1
      FROM seq_1_to_${ENTRIES / 2}`,
  )
  await database.run(
    `INSERT INTO note (customer_id, text, on_date, person_id)
      SELECT 1, CONCAT('note ', seq), DATE_SUB('${TODAY}', INTERVAL 1 + seq % 700 DAY), 1 FROM seq_1_to_${ENTRIES / 2}`,
  )
  const first = accounts.timeline.query!.parse({ limit: 60 })
  let cursor: string | undefined
  const page = await timed(9, async () => {
    const answer = await readTimeline(database, 'B000001', { ...first, cursor }, {})
    cursor = answer.next ?? undefined
  })
  tell(`A page of the time line, ${ENTRIES.toLocaleString('en')} entries`, `${page.toFixed(0)} ms (goal 150)`)
}

/** Statements to many, kept and drawn. */
export async function statements(): Promise<void> {
  const [job] = await database.insert('job', [
    { kind: 'statements', params: '{}', state: 'done', person_id: actor.id },
  ])
  const stop = new Error('enough')
  const begun = performance.now()
  try {
    await runStatements(database, actor, { form: 'open-item', cycle: 'all' }, job!, async (_step, done) => {
      if (done >= STATEMENTS) throw stop
    })
  } catch (error) {
    if (error !== stop) throw error
  }
  const kept = (performance.now() - begun) / 1000
  const letters = await database.select<{ letter: string }>(
    'SELECT letter FROM sent_letter WHERE job_id = :job ORDER BY id LIMIT :most',
    { job: job!, most: STATEMENTS },
  )
  const drawn = performance.now()
  for (const { letter } of letters) await sheetPdf([JSON.parse(letter) as LetterSheet])
  const seconds = (performance.now() - drawn) / 1000
  tell(
    `${letters.length.toLocaleString('en')} statements`,
    `kept in ${kept.toFixed(0)} s, drawn as PDF in ${seconds.toFixed(0)} s (goal 600 together); ` +
      `${Math.round(process.memoryUsage().rss / 1024 / 1024)} MB (goal 1024)`,
  )
  say('')
}
