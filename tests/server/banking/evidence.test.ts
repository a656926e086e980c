import { acceptFirst, books, line, lines, take } from './bank'
import { customers, documents } from '../database'

/* What speaks for a payer and a document, read from the tables for a single line as for many. */

const more = (n: number): ReturnType<typeof line>[] =>
  Array.from({ length: n }, (_, i) => line(-100 - i, { text: `BANK CHARGES ${i}` }))
const paid = (l: Awaited<ReturnType<typeof lines>>[number] | undefined) =>
  l?.proposal?.action.kind === 'receipt'
    ? l.proposal.action.parts.flatMap(p => p.allocations.map(a => [p.customer, a.amount]))
    : []

// Below forty lines only what they may mean is read from the ledger; above, all that is open.
describe.each([
  ['a few lines', 0],
  ['many lines', 45],
])('%s', (_, beside) => {
  beforeEach(async () => {
    await customers(books, 'number,name,class,country,currency\nKD-903,Stavsund Mat,food,NO,EUR\n')
    await documents(
      books,
      `number,kind,customer,date,due_date,currency,amount,tax,order,text
26-5,invoice,K2,2026-10-01,2026-11-20,EUR,745.10,0,PO-99812,
26-6,invoice,K3,2026-10-01,2026-11-20,EUR,333.30,0,,
26-7,invoice,KD-903,2026-10-02,2026-11-21,EUR,333.30,0,,
`,
    )
  })
  test('an order number names its document, a customer number its customer', async () => {
    await take([line(74_510, { text: 'po 99812' }), line(74_510, { text: 'PO-99812' }), ...more(beside)])
    const [order] = (await lines('all')).filter(l => l.text === 'PO-99812')
    expect(order!.proposal?.reasons.join() ?? order!.match!.told).toContain('the order PO-99812')
    await take([line(33_330, { text: 'customer KD-903 thanks' }), ...more(beside)])
    const byNumber = (await lines('all')).find(l => l.text === 'customer KD-903 thanks')
    expect(byNumber!.proposal?.reasons.join() ?? byNumber!.match!.told).toContain('customer KD-903')
  })
  test('how a customer pays is counted, what is paid twice is told with the receipt', async () => {
    await take([line(33_330, { name: 'Somebody', text: '26-6' }), ...more(beside)])
    const [first] = (await lines('all')).filter(l => l.text === '26-6')
    if (first!.state === 'open') await acceptFirst(first!.id)
    expect(
      await books.database.select('SELECT kind, amount, times FROM payer_habit ORDER BY customer_id'),
    ).toContainEqual({ kind: 'oldest', amount: 0, times: 1 })
    await take([line(33_330, { name: 'Brae & Barrow', text: 'again 26-6' }), ...more(beside)])
    const again = (await lines('all')).find(l => l.text === 'again 26-6')
    expect(again!.proposal?.reasons.join() ?? again!.match!.told).toMatch(
      /26-6 was settled on 2026-11-13 by R-\d+.*paid twice/,
    )
    expect(again!.match?.receipts ?? paid(again)).not.toContain('26-6')
  })
})
