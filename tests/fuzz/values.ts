import fc from 'fast-check'

/*
 * Values for a JSON Schema: mostly such as it asks for, and now and then such as nobody expected.
 */

export interface Schema {
  type?: string | string[]
  properties?: Record<string, Schema>
  required?: string[]
  items?: Schema
  enum?: unknown[]
  const?: unknown
  anyOf?: Schema[]
  oneOf?: Schema[]
  allOf?: Schema[]
  minimum?: number
  maximum?: number
  minItems?: number
  maxItems?: number
  minLength?: number
  maxLength?: number
  format?: string
  examples?: unknown[]
  example?: unknown
  additionalProperties?: Schema | boolean
}

/** Text that programs stumble over. */
export const hostileText: fc.Arbitrary<string> = fc.oneof(
  fc.constantFrom(
    '',
    ' ',
    'Ü',
    'Åse Sjö',
    '日本',
    '💶',
    'e\u0301',
    '\u0000',
    '\ud800',
    '\u202e',
    "' OR 1=1 --",
    '"; DROP TABLE item; --',
    '%',
    '_',
    '\\',
    '../../etc/passwd',
    '<script>alert(1)</script>',
    '{{7*7}}',
    '=1+1',
    '__proto__',
    'constructor',
    'toString',
    'null',
    'NaN',
    '1e309',
    '-0',
    '0x10',
    '2026-02-30',
    '0000-00-00',
    '9999-12-31',
    '99999-01-01',
    'W10',
    'eyJhIjoxfQ',
    'K1',
    'k1',
    'K1 ',
    'Kı',
    'EUR',
    'eur',
    'standard',
    'x'.repeat(400),
    'Ω'.repeat(300),
  ),
  fc.string({ maxLength: 40 }),
  fc.string({ unit: 'binary', maxLength: 20 }),
)

const hostileNumber = fc.oneof(
  fc.constantFrom(0, -1, 1, 0.5, -0, 1e15, 2 ** 53, -(2 ** 53), 2 ** 31, 2 ** 32 + 1, 1e308, 999_999_999),
  fc.integer(),
)

const deep: fc.Arbitrary<unknown> = fc.integer({ min: 2, max: 400 }).map(levels => {
  let value: unknown = 1
  for (let i = 0; i < levels; i++) value = i % 2 ? [value] : { a: value }
  return value
})

const hostile: fc.Arbitrary<unknown> = fc.oneof(
  hostileText,
  hostileNumber,
  fc.constantFrom(null, true, false, [], {}, [[]], { __proto__: 1 }, [null], { amount: 1 }),
  deep,
)

const texts = (schema: Schema): fc.Arbitrary<string> => {
  // A text of a form of its own, such as JSON, comes by its example or not at all. A day is any day.
  if (typeof schema.example === 'string' && schema.example.startsWith('{')) return fc.constant(schema.example)
  if (schema.format === 'date')
    return fc
      .integer({ min: -400, max: 30 })
      .map(days => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10))
  const own = fc.constantFrom('K1', 'K2', 'K3', 'EUR', 'USD', '1200', '6850', '26-1', 'standard', 'cash')
  return fc.oneof({ weight: 3, arbitrary: own }, { weight: 2, arbitrary: hostileText })
}

const whole = (schema: Schema): fc.Arbitrary<number> => {
  const min = Math.ceil(Math.max(schema.minimum ?? -50, -1e15))
  const max = Math.max(min, Math.floor(Math.min(schema.maximum ?? 5000, 1e15)))
  const small = Math.min(Math.max(min, 30), max)
  // What there is of a thing is numbered from one.
  const first = Math.min(Math.max(min, 3), max)
  return fc.oneof(
    { weight: 3, arbitrary: fc.integer({ min, max: first }) },
    { weight: 2, arbitrary: fc.integer({ min, max: small }) },
    { weight: 1, arbitrary: fc.integer({ min, max }) },
  )
}

function rightOnes(schema: Schema, depth: number): fc.Arbitrary<unknown> {
  if (schema.const !== undefined) return fc.constant(schema.const)
  if (schema.enum) return fc.constantFrom(...schema.enum)
  const choices = schema.anyOf ?? schema.oneOf
  if (choices) return fc.oneof(...choices.map(s => valuesOf(s, depth + 1)))
  if (schema.allOf) return valuesOf(schema.allOf[0]!, depth + 1)
  const type = Array.isArray(schema.type) ? schema.type[0] : schema.type
  if (type === 'object' || schema.properties) {
    const parts = Object.entries(schema.properties ?? {})
    return fc.record(Object.fromEntries(parts.map(([name, part]) => [name, valuesOf(part, depth + 1)])), {
      requiredKeys: [],
    })
  }
  if (type === 'array')
    return fc.array(valuesOf(schema.items ?? {}, depth + 1), { maxLength: depth > 4 ? 1 : 4 })
  if (type === 'integer' || type === 'number') return whole(schema)
  if (type === 'boolean') return fc.boolean()
  if (type === 'null') return fc.constant(null)
  if (type === 'string') return texts(schema)
  return hostile
}

/** Values for a schema: nine of ten as it asks for, in each of their parts. */
export function valuesOf(schema: Schema, depth = 0): fc.Arbitrary<unknown> {
  if (depth > 8) return hostile
  return fc.oneof({ weight: 12, arbitrary: rightOnes(schema, depth) }, { weight: 1, arbitrary: hostile })
}

/** A right value with one of its leaves bent, or a part left out, or as it is. */
export function bent(right: unknown): fc.Arbitrary<unknown> {
  const change = fc.record({ at: fc.nat(1000), to: hostile, out: fc.boolean() })
  return fc.oneof(
    fc.constant(right),
    change.map(({ at, to, out }) => {
      if (typeof right === 'string') return right.slice(0, at % right.length) + String(to)
      const copy = structuredClone(right) as Record<string, unknown>
      const leaves: [Record<string, unknown>, string][] = []
      const walk = (node: unknown) => {
        if (node === null || typeof node !== 'object') return
        for (const key of Object.keys(node)) {
          leaves.push([node as Record<string, unknown>, key])
          walk((node as Record<string, unknown>)[key])
        }
      }
      walk(copy)
      // An empty body has nothing to bend.
      if (!leaves.length) return copy
      const [node, key] = leaves[at % leaves.length]!
      if (out) delete node[key]
      else node[key] = to
      return copy
    }),
  )
}
