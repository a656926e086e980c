import { viewState } from '../../../contract/views'
import { listViews, removeView, saveView } from '../../../server/services/views/views'
import type { Actor } from '../../../server/services/people/scope'
import { freshBooks, type Books } from '../database'

let books: Books
const ada: Actor = { id: 2, name: 'Ada', email: 'a@example.org', role: 'auditor' }
beforeAll(async () => {
  books = await freshBooks()
  await books.database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES ('a@example.org', 'Ada', 'auditor', 'x')`,
  )
})
afterAll(() => books.close())

const save = (actor: Actor, name: string, shared: boolean, state: object) =>
  saveView(books.database, { screen: 'aging', name, shared, state: viewState.parse(state) }, actor)
const names = async (actor: Actor) =>
  (await listViews(books.database, 'aging', actor)).items.map(v => `${v.name} ${v.mine ? 'mine' : v.by}`)

test('one’s own views come first, then what others share; private ones stay private', async () => {
  await save(books.actor, 'Late in food', false, { class: 'food' })
  await save(books.actor, 'By country', true, { by: 'country' })
  await save(ada, 'Zeal', false, { net: true })
  expect(await names(books.actor)).toEqual(['By country mine', 'Late in food mine'])
  expect(await names(ada)).toEqual(['Zeal mine', 'By country Sam Over'])
  expect((await listViews(books.database, 'accounts', ada)).items).toEqual([])
})

test('the same name is the same view, changed; of each person its own', async () => {
  const changed = await save(books.actor, 'By country', false, { by: 'country', hidden: ['b1'] })
  expect(changed.state).toEqual({ by: 'country', hidden: ['b1'] })
  await save(ada, 'By country', false, { by: 'class' })
  expect(await names(ada)).toEqual(['By country mine', 'Zeal mine'])
})

test('nobody removes the view of somebody else', async () => {
  const { id } = await save(books.actor, 'Mine', true, {})
  await expect(removeView(books.database, id, ada)).rejects.toThrow(/view \d+ of yours/)
  expect(await removeView(books.database, id, books.actor)).toEqual({ removed: true })
  await expect(removeView(books.database, id, books.actor)).rejects.toThrow(/view \d+ of yours/)
})

test('a view keeps settings, not a book', () => {
  const many = Object.fromEntries(Array.from({ length: 41 }, (_, n) => [`k${n}`, n]))
  expect(viewState.safeParse(many).success).toBe(false)
  expect(viewState.safeParse({ search: 'x'.repeat(201) }).success).toBe(false)
})
