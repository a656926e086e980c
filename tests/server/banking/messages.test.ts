import { writeCamt, type StatementLine } from '../../../formats/statements'
import { takeStatement } from '../../../server/services/banking/statements'
import { agrees, balance, books, file, IBAN, line, lines, take } from './bank'

/*
 * The same money in several messages of the bank, what a bank account opens with, and what a line tells more.
 */

/** The lines as a notification or a report within the day: the same entries in another envelope. */
const announced = (list: StatementLine[], format: 'camt.052' | 'camt.054') => {
  const [root, part] =
    format === 'camt.054' ? ['BkToCstmrDbtCdtNtfctn', 'Ntfctn'] : ['BkToCstmrAcctRpt', 'Rpt']
  const day = '2026-11-13'
  const xml = writeCamt(
    {
      ...{ format: 'camt.053', id: `N-${format}`, account: IBAN, currency: 'EUR', from: day, to: day },
      ...{ opening: 0, closing: list.reduce((a, l) => a + l.amount, 0), lines: list },
    },
    `${day}T12:00:00`,
  )
  return Buffer.from(xml.replaceAll('BkToCstmrStmt', root!).replaceAll('Stmt>', `${part}>`))
}
const takeFile = (bytes: Buffer) => takeStatement(books.database, books.actor, bytes, {})

test('a notification comes first, the statement confirms it: the money is there once', async () => {
  const own = [line(121_040, { text: '26-1' }), line(-2150, { text: 'BANK CHARGES' })]
  for (const format of ['camt.052', 'camt.054'] as const) await takeFile(announced(own, format))
  expect(await lines('all')).toHaveLength(2)
  // Before the statement came, its balance says nothing about them.
  await agrees()
  expect(await take(own)).toMatchObject({ fresh: 0, known: 2 })
  expect(await lines('all')).toHaveLength(2)
  await agrees()
  expect(await takeFile(announced(own, 'camt.054'))).toMatchObject({ fresh: 0, known: 2 })
  await agrees()
})

test('a batch that the notification tells payment by payment stands on the statement as one entry', async () => {
  const one = { bankReference: 'BATCH-7' }
  const parts = [line(121_040, { ...one, text: '26-1' }), line(50_000, { ...one, text: '26-3' })]
  await takeFile(announced(parts, 'camt.054'))
  expect(await take([line(171_040, { ...one, text: '2 PAYMENTS' })])).toMatchObject({ fresh: 0 })
  expect((await lines('all')).map(l => l.amount).sort((a, b) => a - b)).toEqual([50_000, 121_040])
  await agrees()
  // Another sum under the same reference is other money.
  expect(await take([line(99_000, { ...one, text: 'OTHER' })])).toMatchObject({ fresh: 1 })
  await agrees()
})

test('an entry that no reference tells apart waits for the statement, and that is said', async () => {
  const own = [line(121_040, { bankReference: '', text: '26-1' })]
  const result = await takeFile(announced(own, 'camt.054'))
  expect(result).toMatchObject({ fresh: 0, known: 0 })
  expect(result.warnings.join()).toContain('wait for it')
  expect(await take(own)).toMatchObject({ fresh: 1 })
  await agrees()
})

test('a bank account opens with the balance of its first statement, once', async () => {
  const first = file([line(121_040, { text: '26-1' })], { opening: 777_700 })
  await Promise.all([takeFile(first), takeFile(first)])
  expect(await balance('3900')).toBe(-777_700)
  expect(await balance('1200')).toBe(777_700 + 121_040)
  const [next] = [file([line(-2150, { text: 'BANK CHARGES' })], { opening: 777_700 + 121_040 })]
  expect((await takeFile(next!)).warnings).toEqual([])
  expect(await balance('3900')).toBe(-777_700)
})

test('what the bank tells of charges and of whom it was paid for is kept with the line', async () => {
  const xml = file([line(121_040, { name: 'Paygate Clearing', text: '' })])
    .toString()
    .replace('</RltdPties>', '<UltmtDbtr><Pty><Nm>Fjordlys Fisk</Nm></Pty></UltmtDbtr></RltdPties>')
  await takeFile(Buffer.from(xml))
  const [own] = await lines('all')
  expect(own).toMatchObject({ ultimate: 'Fjordlys Fisk', details: { ultimate: 'Fjordlys Fisk' } })
})
