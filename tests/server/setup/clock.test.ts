import { mkdtempSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readSettings, writeSetting } from '../../../server/db/settings'
import { problemFor } from '../../../server/services/common/problems'
import { advanceClock } from '../../../server/services/setup/clock'
import { readMemory, setUpBank } from '../../../simulators/bank'
import { firstSteps } from '../../../server/services/setup/firstSteps'
import { changeSettings } from '../../../server/services/setup/settings'
import { CUSTOMERS, customers, freshBooks, type Books } from '../database'

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

test('the house goes on invoicing as the Clock goes on, once, and its customers know what to pay', async () => {
  const numbered = Array.from({ length: 30 }, (_, n) => `Q${n}`)
  await customers(books, `number,name,country\n${numbered.map(q => `${q},House ${q},IE`).join('\n')}\n`)
  setUpBank(join(data, 'bank'), {
    ...readMemory(join(data, 'bank')),
    invoicedTo: FRIDAY,
    lastInvoice: '26-0007',
    payers: numbered.map(number => ({
      ...{ number, name: `House ${number}`, country: 'IE', currency: 'EUR', iban: '' },
      ...{ takesDiscount: false, typical: 50_000, invoices: [], credits: [] },
    })),
  })
  const invoices = () =>
    books.database.select<{ number: string; date: string; due: string }>(
      `SELECT number, document_date AS date, due_date AS due FROM item WHERE kind = 'invoice' ORDER BY number`,
    )
  for (let day = 0; day < 6; day++) await advanceClock(books.database, books.actor)
  const made = await invoices()
  expect(made.length).toBeGreaterThan(0)
  expect(made[0]).toMatchObject({ number: '26-0008' })
  // Nothing on a weekend, nothing dated after the day that began.
  const today = (await clock())!
  for (const { date, due } of made) {
    expect(date >= '2026-11-23' && date < today).toBe(true)
    expect(due > date).toBe(true)
  }
  expect(readMemory(join(data, 'bank')).payers.flatMap(p => p.invoices).length).toBeGreaterThanOrEqual(
    made.length,
  )
  const before = made.length
  await advanceClock(books.database, books.actor)
  const numbers = (await invoices()).map(i => i.number)
  expect(new Set(numbers).size).toBe(numbers.length)
  // Into a closed period nothing comes, and it does not keep later invoices out.
  await writeSetting(books.database, 1, 'closedUntil', (await clock())!)
  for (let day = 0; day < 5; day++) await advanceClock(books.database, books.actor)
  const closed = (await readSettings(books.database)).closedUntil!
  const later = (await invoices()).filter(i => !numbers.includes(i.number))
  expect(later.length).toBeGreaterThan(0)
  expect(later.every(i => i.date > closed)).toBe(true)
  expect(numbers.length).toBeGreaterThanOrEqual(before)
})

test('a new house is led from step to step, and its base currency stays once anything is posted', async () => {
  const done = async () => (await firstSteps(books.database)).steps.filter(s => s.done).map(s => s.key)
  expect(await done()).toEqual([])
  const house = {
    ...{ street: '3 Kelp Quay', postcode: 'X91', city: 'Carrowbeg', country: 'IE', vatNumber: '' },
    ...{ email: '', phone: '', bank: '', iban: 'IE29AIBK93115212345678', bic: '', logo: '' },
  }
  await changeSettings(books.database, books.actor, { house, base: 'GBP' })
  await customers(books, CUSTOMERS)
  expect(await done()).toEqual(['company', 'customers'])
  const refused = (changes: object) =>
    changeSettings(books.database, books.actor, changes).then(
      () => 'taken',
      (e: Error) => e.message,
    )
  expect(await refused({ house: { ...house, iban: 'IE29AIBK93115212345679' } })).toMatch(/not a valid IBAN/)
  await changeSettings(books.database, books.actor, { base: 'EUR' })
  await books.database.insert('entry', [
    { number: 1, date: '2026-11-16', kind: 'document', text: '', person_id: 1 },
  ])
  expect(await refused({ base: 'USD' })).toMatch(/kept in EUR/)
})
