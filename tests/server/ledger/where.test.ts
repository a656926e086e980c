import { now, Op, plus } from '../../../server/db/where'
import { freshBooks, type Books } from '../database'

/* Simple statements by the models: what they find, change and remove. */

let books: Books
beforeAll(async () => {
  books = await freshBooks()
})
afterAll(() => books.close())

const NOTES = ['one', 'two', 'three', 'four']
beforeEach(async () => {
  const { database } = books
  await database.remove('audit', { what: ['test', 'other'] })
  await database.insert(
    'audit',
    NOTES.map(about => ({ what: 'test', about, before_value: null, after_value: null, person_id: 1 })),
  )
})
const abouts = async (where: Parameters<typeof books.database.find<'audit'>>[1], how = {}) =>
  (await books.database.find('audit', { what: 'test', ...where }, { order: ['id'], ...how })).map(
    r => r.about,
  )

test('found by value, list, bounds and null; ordered, limited, each once', async () => {
  expect(await abouts({ about: 'two' })).toEqual(['two'])
  expect(await abouts({ about: ['one', 'four'] })).toEqual(['one', 'four'])
  expect(await abouts({ about: [] })).toEqual([])
  expect(await abouts({ about: { [Op.ne]: 'one' } }, { limit: 2 })).toEqual(['two', 'three'])
  expect(await abouts({ before_value: null }, { order: [['id', 'DESC']], limit: 1 })).toEqual(['four'])
  expect(await abouts({ before_value: { [Op.not]: null } })).toEqual([])
  const [row] = await books.database.find('audit', { about: 'one' }, { columns: { by: 'person_id' } })
  expect(row).toEqual({ by: 1 })
  expect(await books.database.find('audit', { what: 'test' }, { columns: ['what'], distinct: true })).toEqual(
    [{ what: 'test' }],
  )
})

test('a quote in a value stays a value', async () => {
  const [id] = await books.database.insert('audit', [
    { what: 'test', about: `it's "so" \\ ;--`, person_id: 1 },
  ])
  expect(await abouts({ about: `it's "so" \\ ;--` })).toEqual([`it's "so" \\ ;--`])
  expect(await books.database.update('audit', { about: `'; DROP TABLE audit` }, { id })).toBe(1)
  expect(await abouts({ id })).toEqual([`'; DROP TABLE audit`])
})

test('changes say how many rows they changed, a stale one none', async () => {
  const { database } = books
  expect(await database.update('audit', { what: 'other' }, { about: ['one', 'two'] })).toBe(2)
  expect(await database.update('audit', { what: 'other' }, { about: ['one', 'two'] })).toBe(0)
  await database.update('series', { next: plus('next', 5) }, { name: 'entry' })
  await database.update('series', { next: plus('next', -5) }, { name: 'entry' })
  const [series] = await database.find('series', { name: 'entry' }, { columns: ['next'] })
  expect(series!.next).toBe(1)
  await database.update('audit', { at: now() }, { about: 'three' })
  const [row] = await database.find('audit', { about: 'three' }, { columns: ['at'] })
  expect(Math.abs(Date.parse(row!.at) - Date.now())).toBeLessThan(60_000)
  expect(() => plus('next', 0.5)).toThrow(/whole number/)
})

test('removed are those that hold the values; put changes what is there', async () => {
  const { database } = books
  expect(await database.remove('audit', { about: ['one', 'two', 'nowhere'] })).toBe(2)
  expect(await abouts({})).toEqual(['three', 'four'])
  for (const value of ['1', '2']) await database.put('setting', [{ name: 'of-a-test', value }], ['value'])
  expect(await database.find('setting', { name: 'of-a-test' })).toMatchObject([{ value: '2' }])
})

test('a value that is not said is a fault, never a condition left out', async () => {
  await expect(books.database.find('audit', { about: undefined })).rejects.toThrow(/undefined/)
  await expect(books.database.remove('audit', { about: undefined })).rejects.toThrow(/undefined/)
  await expect(books.database.update('audit', { about: undefined }, {})).rejects.toThrow(/no value/)
  expect(await abouts({})).toEqual(NOTES)
})

test('inside a transaction only its own handle reads and changes', async () => {
  const { database } = books
  await database.transaction(async tx => {
    await tx.update('audit', { what: 'other' }, { about: 'one' })
    await expect(database.find('audit', {})).rejects.toThrow(/outside the transaction/)
    await expect(database.remove('audit', {})).rejects.toThrow(/outside the transaction/)
    expect(await tx.find('audit', { about: 'one' }, { columns: ['what'], lock: true })).toEqual([
      { what: 'other' },
    ])
  })
})
