import fc from 'fast-check'
import { LedgerImage, openFromRows, OpenNow, type Open } from '../../../core/image'

/*
 * What is kept up as the ledger grows, item by item, is held against what follows from the rows alone: any
 * order of postings and questions, customers made one in between.
 */

type Act =
  | { what: 'item'; customer: number; isDebit: boolean; amount: number; day: number }
  | { what: 'allocate'; debit: number; credit: number; share: number; day: number }
  | { what: 'take back'; which: number; day: number }
  | { what: 'merge'; from: number; into: number }
  | { what: 'ask'; day: number }

const DAYS = 40
const day = fc.integer({ min: 0, max: DAYS })
const acts: fc.Arbitrary<Act[]> = fc.array(
  fc.oneof(
    {
      weight: 5,
      arbitrary: fc.record({
        what: fc.constant('item' as const),
        customer: fc.integer({ min: 1, max: 5 }),
        isDebit: fc.boolean(),
        amount: fc.integer({ min: 1, max: 9000 }),
        day,
      }),
    },
    {
      weight: 4,
      arbitrary: fc.record({
        what: fc.constant('allocate' as const),
        debit: fc.nat(),
        credit: fc.nat(),
        share: fc.double({ min: 0.1, max: 1, noNaN: true }),
        day,
      }),
    },
    { weight: 2, arbitrary: fc.record({ what: fc.constant('take back' as const), which: fc.nat(), day }) },
    {
      weight: 1,
      arbitrary: fc.record({
        what: fc.constant('merge' as const),
        from: fc.integer({ min: 1, max: 5 }),
        into: fc.integer({ min: 1, max: 5 }),
      }),
    },
    { weight: 3, arbitrary: fc.record({ what: fc.constant('ask' as const), day }) },
  ),
  { minLength: 5, maxLength: 120 },
)

/** A small ledger that does as the door does: nothing is taken twice, no effect before its items. */
class World {
  image = new LedgerImage()
  now = new OpenNow(this.image)
  private items: { isDebit: boolean; left: number; day: number }[] = []
  private links: { debit: number; credit: number; amount: number; day: number; isGone: boolean }[] = []
  private entry = 0

  act(act: Act): void {
    if (act.what === 'item') {
      const { isDebit, amount } = act
      this.items.push({ isDebit, left: amount, day: act.day })
      this.image.addItem({
        id: this.items.length,
        customerId: act.customer,
        entryId: ++this.entry,
        kind: isDebit ? 'invoice' : 'receipt',
        isDebit,
        currency: 'EUR',
        amount,
        base: amount * 2,
        documentDay: act.day,
        dueDay: act.day + 10,
        postingDay: act.day,
      })
    }
    if (act.what === 'allocate') this.allocate(act)
    if (act.what === 'take back') this.takeBack(act)
    if (act.what === 'merge' && act.from !== act.into) {
      this.image.mergeCustomers(act.from, act.into)
      this.now.readCustomers()
    }
  }

  private add(debit: number, credit: number, amount: number, effectiveDay: number): void {
    this.image.addAllocation({
      entryId: ++this.entry,
      debitId: debit + 1,
      creditId: credit + 1,
      amount,
      debitBase: amount * 2,
      creditBase: amount * 2,
      effectiveDay,
    })
  }

  private allocate({ debit, credit, share, day: on }: Act & { what: 'allocate' }): void {
    const pick = (isDebit: boolean, n: number) => {
      const open = this.items.flatMap((i, at) => (i.isDebit === isDebit && i.left > 0 ? [at] : []))
      return open.length ? open[n % open.length]! : -1
    }
    const [d, c] = [pick(true, debit), pick(false, credit)]
    if (d < 0 || c < 0) return
    const amount = Math.ceil(Math.min(this.items[d]!.left, this.items[c]!.left) * share)
    const from = Math.max(on, this.items[d]!.day, this.items[c]!.day)
    this.items[d]!.left -= amount
    this.items[c]!.left -= amount
    this.links.push({ debit: d, credit: c, amount, day: from, isGone: false })
    this.add(d, c, amount, from)
  }

  private takeBack({ which, day: on }: Act & { what: 'take back' }): void {
    const live = this.links.filter(l => !l.isGone)
    if (!live.length) return
    const link = live[which % live.length]!
    link.isGone = true
    this.items[link.debit]!.left += link.amount
    this.items[link.credit]!.left += link.amount
    this.add(link.debit, link.credit, -link.amount, Math.max(on, link.day))
  }
}

/** What a table lists, by item, without what is closed. */
function listed(image: LedgerImage, { table }: Open): [number, number, number, number][] {
  const found: [number, number, number, number][] = []
  for (let place = 0; place < table.count; place++) {
    if (table.amount[place] === 0 && table.base[place] === 0) continue
    found.push([table.item[place]!, table.customer[place]!, table.amount[place]!, table.base[place]!])
  }
  return found.sort((a, b) => a[0] - b[0])
}

test('kept up item by item, what is open on any day is what the rows say', () => {
  let asked = 0
  fc.assert(
    fc.property(acts, list => {
      const world = new World()
      for (const act of [...list, { what: 'ask' as const, day: DAYS }]) {
        world.act(act)
        if (act.what !== 'ask') continue
        world.now.catchUp()
        const { image } = world
        const kept = world.now.at({ day: act.day, known: null })
        const rows = openFromRows(image, { day: act.day, known: null })
        for (let row = 0; row < image.items.count; row++)
          expect(kept.table.openOf(row)).toEqual(rows.table.openOf(row))
        expect(listed(image, kept)).toEqual(listed(image, rows))
        expect(kept.table.whole).toBe(rows.table.whole)
        for (const [row, customer] of listed(image, kept))
          expect(customer).toBe(image.items.column.customer[row])
        asked++
      }
    }),
    { numRuns: 300 },
  )
  expect(asked).toBeGreaterThan(600)
})

test('memory of past days is bounded: the two that were asked for last', () => {
  const bytesAfter = (days: readonly number[]) => {
    const world = new World()
    for (let n = 0; n < 50; n++)
      world.act({ what: 'item', customer: 1 + (n % 5), isDebit: n % 3 > 0, amount: 100 + n, day: n % DAYS })
    world.now.catchUp()
    for (const day of days) world.now.at({ day, known: null })
    return world.now.bytes
  }
  const many = Array.from({ length: 30 }, (_, day) => day)
  expect(bytesAfter(many)).toBe(bytesAfter(many.slice(-2)))
  expect(bytesAfter(many)).toBeGreaterThan(bytesAfter([]))
})
