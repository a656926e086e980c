import { TABLES } from '../../../server/db/models'
import type { Table } from '../../../server/db/models/columns'
import { freshBooks, type Books } from '../database'

let books: Books
beforeAll(async () => {
  books = await freshBooks()
})
afterAll(() => books.close())

interface Found {
  table: string
  column: string
  nullable: string
  type: string
  key: string
}

const KIND: Record<string, RegExp> = {
  STRING: /^(var)?char/,
  TEXT: /text$/,
  BLOB: /blob$/,
  BIGINT: /int\(/,
  DECIMAL: /^decimal/,
  DATEONLY: /^date$/,
  DATE: /^datetime/,
  ENUM: /^enum/,
}

test('the data dictionary is the schema that the migrations make, column by column', async () => {
  const rows = await books.database.select<Found>(
    `SELECT table_name AS \`table\`, column_name AS \`column\`, is_nullable AS nullable, column_type AS type,
      column_key AS \`key\` FROM information_schema.columns WHERE table_schema = DATABASE()
      AND table_name NOT IN ('migration', 'live_notice') ORDER BY table_name, ordinal_position`,
  )
  const tables = new Map<string, Found[]>()
  for (const r of rows) tables.set(r.table, [...(tables.get(r.table) ?? []), r])
  expect(Object.keys(TABLES).sort()).toEqual([...tables.keys()].sort())
  for (const [name, found] of tables) {
    const t = TABLES[name as keyof typeof TABLES] as Table
    expect([name, Object.keys(t.columns)]).toEqual([name, found.map(f => f.column)])
    expect([name, [...t.primaryKey].sort()]).toEqual([
      name,
      found
        .filter(f => f.key === 'PRI')
        .map(f => f.column)
        .sort(),
    ])
    for (const f of found) {
      const { attribute } = t.columns[f.column]!
      const kind = (attribute.type as unknown as { key: string }).key
      expect([name, f.column, f.type]).toEqual([name, f.column, expect.stringMatching(KIND[kind]!)])
      if (!attribute.autoIncrement)
        expect([name, f.column, attribute.allowNull]).toEqual([name, f.column, f.nullable === 'YES'])
    }
  }
})

test('a simple read goes by the model', async () => {
  expect(await books.database.find('person', { email: 's@example.org' })).toMatchObject([
    { name: 'Sam Over', role: 'supervisor' },
  ])
})
