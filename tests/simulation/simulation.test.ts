import type { Isolation } from '../../server/db/connection'
import { simulate } from './run'

/** A short, seeded part; `npm run simulate -- --seed N --steps M` goes on as long as one likes. */
test.each([
  ['READ COMMITTED', 'Wrackline 1'],
  ['REPEATABLE READ', 'Wrackline 2'],
] as [Isolation, string][])(
  'people at work, several at once, under %s: the books verify and agree with the model after each step',
  async (isolation, seed) => {
    const report = await simulate({ seed, steps: 200, isolation })
    expect(report.steps).toBeGreaterThanOrEqual(200)
    // It tries what it claims to try: most acts take effect, and some are refused.
    expect(Object.keys(report.done).length).toBeGreaterThan(8)
    expect(Object.keys(report.refused).length).toBeGreaterThan(3)
  },
  240_000,
)
