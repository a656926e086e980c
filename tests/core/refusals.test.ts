import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/*
 * Each rule that refuses is named by a test, so that it cannot vanish unnoticed; `npm run mutate` looks
 * whether the tests would notice. Those that no test names yet are listed: the list only becomes shorter.
 */

const sourcesBelow = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap(entry => {
    const path = join(folder, entry.name)
    if (entry.isDirectory()) return sourcesBelow(path)
    return path.endsWith('.ts') && !path.endsWith('refusals.test.ts') ? [path] : []
  })
const textOf = (...folders: string[]) => folders.flatMap(sourcesBelow).map(path => readFileSync(path, 'utf8'))

const REFUSES = /\b(?:refuse|refusal)\(\s*'([\w-]+\.[\w.-]+)'/g
const rules = [
  ...new Set(textOf('core', 'server').flatMap(text => [...text.matchAll(REFUSES)].map(m => m[1]!))),
].sort()

const UNNAMED: string[] = [
  'bank.changed',
  'bank.confirmed',
  'bank.known',
  'batch.count',
  'batch.total',
  'call.dispute',
  'call.next',
  'call.promise',
  'claim.item',
  'claim.rate',
  'collect.old',
  'collect.some',
  'correct.confirmed',
  'correct.kind',
  'correct.means',
  'customer.closed',
  'customer.merged',
  'goodwill.charge',
  'handover.open',
  'hold.lasts',
  'hold.until',
  'offer.currency',
  'offer.twice',
  'payment.parts',
  'refund.in-file',
  'refund.settled',
  'waiting.author',
  'waiting.known',
  'withdraw.credited',
]

test('no rule but those known is named in no test, and none of those is named by now', () => {
  const tests = textOf('tests').join('\n')
  expect(rules.length).toBeGreaterThan(190)
  expect(rules.filter(rule => !tests.includes(`'${rule}'`))).toEqual(UNNAMED)
})
