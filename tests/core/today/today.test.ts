import { can, ROLES } from '../../../core/people'
import { FIRST, inOrderOf } from '../../../core/today'

test.each(ROLES)('%s is told something, each thing once', role => {
  const { moved, waits } = FIRST[role]
  expect(moved.length).toBeGreaterThan(0)
  expect(waits.length).toBeGreaterThan(0)
  expect(new Set(moved).size).toBe(moved.length)
  expect(new Set(waits).size).toBe(waits.length)
})

test('who signs sees what waits for a signature before all else', () => {
  for (const role of ROLES) if (can(role, 'signOff.sign')) expect(FIRST[role].waits[0]).toBe('sign-off')
})

test('a sales contact is told nothing of the bank', () => {
  expect(FIRST.sales.waits.filter(kind => /bank|cash|tray|batch/.test(kind))).toEqual([])
})

test('lines stand in the order of the role, those of one kind as they came, others are left out', () => {
  const lines = [
    { kind: 'mail', n: 1 },
    { kind: 'bank', n: 2 },
    { kind: 'mail', n: 3 },
    { kind: 'held', n: 4 },
  ]
  expect(inOrderOf<string, (typeof lines)[number]>(['bank', 'mail'], lines).map(l => l.n)).toEqual([2, 1, 3])
})
