import { mkdtempSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readSettings, writeSetting } from '../../../server/db/settings'
import { problemFor } from '../../../server/services/common/problems'
import { advanceClock } from '../../../server/services/setup/clock'
import { setUpBank } from '../../../simulators/bank'
import { freshBooks, type Books } from '../database'

/* A day of the demo is over when its bank files have come, and not before. */

const FRIDAY = '2026-11-20'
let books: Books
let data: string
const was = process.env.BILANCIO_DATA
beforeEach(async () => {
  books = await freshBooks()
  data = mkdtempSync(join(tmpdir(), 'bilancio-clock-'))
  process.env.BILANCIO_DATA = data
  setUpBank(join(data, 'bank'), {
    seed: 'clock',
    muddle: 1,
    deliveredTo: '2026-11-19',
    accounts: [{ currency: 'EUR', iban: 'IE64IRCE92050112345678', balance: 100_000, number: 1 }],
    payers: [],
  })
  await writeSetting(books.database, 1, 'clock', FRIDAY)
})
afterEach(async () => {
  process.env.BILANCIO_DATA = was
  rmSync(data, { recursive: true, force: true })
  await books.close()
})

const clock = async () => (await readSettings(books.database)).clock
const inbox = () => join(data, 'bank/inbox')

test('files that cannot be written hold the day; once they can, it ends and they are there', async () => {
  // Where the folder was is a file: nothing can be written into it.
  renameSync(inbox(), join(data, 'aside'))
  writeFileSync(inbox(), 'in the way')
  await expect(advanceClock(books.database, books.actor)).rejects.toMatchObject({ code: 'ENOTDIR' })
  expect(await clock()).toBe(FRIDAY)
  const trail = await books.database.select(`SELECT id FROM audit WHERE about = 'clock' AND after_value LIKE
    '%2026-11-21%'`)
  expect(trail).toEqual([])

  rmSync(inbox())
  renameSync(join(data, 'aside'), inbox())
  expect(await advanceClock(books.database, books.actor)).toEqual({
    today: '2026-11-21',
    delivered: [`${FRIDAY}-EUR.xml`],
  })
  expect(await clock()).toBe('2026-11-21')
  expect(readdirSync(inbox())).toEqual([`${FRIDAY}-EUR.xml`])
})

test('a full disk under the bank’s folder is told as that', () => {
  const full = Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' })
  expect(problemFor(full)).toMatchObject({ status: 507, title: 'Disk full' })
})
