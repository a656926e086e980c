import fc from 'fast-check'
import { closeParsing, parseFile, parseWithin } from '../../../server/parse'
import { parse, type Task } from '../../../server/parse/parse'
import { hostileFiles } from '../../fuzz/files'

/*
 * Files are read in threads of their own: whatever one holds, its sender gets an answer and nobody waits.
 */

afterAll(closeParsing)

const TODAY = '2026-11-16'
const KINDS: Task[] = [
  { kind: 'table', bytes: new Uint8Array(), ask: {} },
  { kind: 'statement', bytes: new Uint8Array(), ask: {} },
  { kind: 'statement', bytes: new Uint8Array(), ask: { csv: { map: null, currency: 'EUR', account: '' } } },
  { kind: 'columns', bytes: new Uint8Array(), ask: {} },
  { kind: 'advice', bytes: new Uint8Array(), ask: { currency: 'EUR' } },
  { kind: 'look', bytes: new Uint8Array(), ask: {} },
]

test('no damaged file makes a reader stumble: each is read, or told what is wrong with it', async () => {
  let read = 0
  const whole = fc.asyncProperty(hostileFiles(TODAY), fc.constantFrom(...KINDS), async (file, task) => {
    // What is large is tried once below; here the many count.
    if (file.text.length > 50_000) return
    const parsed = await parse({ ...task, bytes: Buffer.from(file.text) } as Task)
    if (parsed.ok) read++
    else if ('stumble' in parsed) throw new Error(`${task.kind} of ${file.name}: ${parsed.stumble.join(' ')}`)
    else expect(parsed.fault.message).not.toBe('')
  })
  await fc.assert(whole, { numRuns: 1500, seed: 811 })
  expect(read).toBeGreaterThan(150)
})

/** The longest that this thread was kept from its work meanwhile, milliseconds. */
async function heldUp(work: () => Promise<unknown>): Promise<number> {
  let longest = 0
  let last = performance.now()
  const timer = setInterval(() => {
    longest = Math.max(longest, performance.now() - last)
    last = performance.now()
  }, 5)
  await work()
  clearInterval(timer)
  return longest
}

const statusOf = (work: Promise<unknown>) =>
  work.then(
    () => 200,
    (e: { status?: number; message: string }) => e.status ?? e.message,
  )
const deep = Buffer.from(`<Document>${'<a>'.repeat(300_000)}${'</a>'.repeat(300_000)}</Document>`)
const quoted = Buffer.from(`a,b\n"${'x'.repeat(20_000_000)}`)

test.each([
  ['20 MB of one open quote as a table', 'table', quoted],
  ['20 MB of one open quote as columns', 'columns', quoted],
  ['XML of 300,000 levels', 'statement', deep],
  ['an advice of 300,000 levels', 'advice', deep],
] as const)('%s is refused, and this thread goes on', async (_, kind, bytes) => {
  const ask = kind === 'advice' ? { currency: 'EUR' } : {}
  let status: unknown
  const longest = await heldUp(async () => {
    status = await statusOf(parseFile(kind, bytes, ask as never, 'Not read'))
  })
  expect(status).toBe(422)
  expect(longest).toBeLessThan(400)
})

const rows = Buffer.from(`a\n${'1\n'.repeat(3_000_000)}`)
const table: Task = { kind: 'table', bytes: rows, ask: {} }
const within = (limits: { bytes?: number; seconds?: number; memoryMb?: number }) =>
  parseWithin({ bytes: 1e9, seconds: 60, memoryMb: 900, ...limits }, table, 'Not read')

test.each([
  ['too large', { bytes: 1024 * 1024 }, 413, /at most 1 MB/],
  ['too long', { seconds: 0.3 }, 422, /not read within/],
  ['too much memory', { memoryMb: 40 }, 422, /more memory/],
])('%s: its sender is told', async (_, limits, status, message) => {
  await expect(within(limits)).rejects.toMatchObject({ status, message: expect.stringMatching(message) })
})
