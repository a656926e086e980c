import { ToWords } from 'to-words'
import { chequeRefusals, decideLapse, decideRefunds, lapseTermsOf, type Payee } from '../../../core/refunds'
import { applyPosting } from '../../../core/ledger'
import { postReceipt, reverse } from '../../../core/receipts'
import { amountInWords } from '../../../server/letters/inWords'
import { books, ok, rules, TODAY } from '../books'

const payee: Payee = {
  customerId: 1,
  number: 'P1',
  name: 'Pier',
  allowed: true,
  iban: 'DE89370400440532013000',
  bankChangedBy: null,
  closed: false,
  cardItems: new Set(),
}
const payees = new Map([['P1', payee]])

/** Books with money of a customer on account. */
function withCredit(amount: number, advance = false) {
  const b = books()
  const posted = ok(
    postReceipt(b.state, {
      customerId: 1,
      currency: 'EUR',
      date: TODAY,
      text: '',
      means: [{ means: 'transfer', amount, reference: '' }],
      allocations: [],
      onAccount: amount,
      advance,
      rate: '1',
    }),
  )
  const { items } = applyPosting(b, posted)
  return { b, creditId: [...items.values()][0]! }
}
const refund = (b: ReturnType<typeof books>, itemId: number, amount: number, over = {}) =>
  decideRefunds(
    { ledger: b.state, payees },
    {
      date: TODAY,
      refunds: [{ customer: 'P1', method: 'transfer', credits: [{ itemId, amount }], text: '', ...over }],
    },
  )
const balance = (b: ReturnType<typeof books>, account: string) =>
  b.lines.filter(l => l.account === account).reduce((a, l) => a + l.amount, 0)

test('a refund is posted once: receivable debited, on its way credited, the credit closed', () => {
  const { b, creditId } = withCredit(10_000)
  const done = refund(b, creditId, 10_000)
  if (!done.ok) throw new Error('refused')
  expect(done.postings[0]!.lines.map(l => [l.account, l.amount])).toEqual([
    ['1100', 10_000],
    ['1230', -10_000],
  ])
  applyPosting(b, done.postings[0]!)
  expect([balance(b, '1100'), balance(b, '1230')]).toEqual([0, -10_000])
  expect([...b.state.items.values()].map(i => i.open)).toEqual([0, 0])
  expect(rules(refund(b, creditId, 1))).toContain('refund.used')
})

test('an advance leaves its liability as it is paid back; undoing brings back the start', () => {
  const { b, creditId } = withCredit(5000, true)
  const start = b.lines.length
  const done = refund(b, creditId, 5000)
  if (!done.ok) throw new Error('refused')
  const { items } = applyPosting(b, done.postings[0]!)
  expect([balance(b, '2300'), balance(b, '1100')]).toEqual([0, 0])
  const refundId = [...items.values()][0]!
  const lines = b.state.lines.get(refundId)!
  const back = ok(reverse(b.state, { date: TODAY, itemId: refundId, reason: 'not paid', lines }))
  applyPosting(b, back)
  for (const account of ['1100', '1230'])
    expect(
      b.lines
        .slice(start)
        .filter(l => l.account === account)
        .reduce((a, l) => a + l.amount, 0),
    ).toBe(0)
  expect(balance(b, '2300')).toBe(-5000)
  expect(b.state.items.get(creditId)!.open).toBe(5000)
})

test('two refunds of one batch cannot have the same credit', () => {
  const { b, creditId } = withCredit(10_000)
  const one = {
    customer: 'P1',
    method: 'transfer' as const,
    credits: [{ itemId: creditId, amount: 6000 }],
    text: '',
  }
  const both = decideRefunds({ ledger: b.state, payees }, { date: TODAY, refunds: [one, one] })
  expect(rules(both)).toEqual(['allocation.open'])
  expect(b.state.items.get(creditId)!.open).toBe(10_000)
})

test('numbers of cheques: zeros before them do not tell two apart', () => {
  const others = [{ number: '000700', refund: 'RF-1', void: true }]
  expect(chequeRefusals('700', others, false, 'number').map(r => r.rule)).toEqual(['cheque.twice'])
  expect(chequeRefusals('700', others, true, 'number')).toEqual([])
  expect(chequeRefusals('7 00', [], false, 'number').map(r => r.rule)).toEqual(['cheque.number'])
})

test('unclaimed credits: by the rule of the country, not before the term, not above the limit', () => {
  const { b, creditId } = withCredit(3000)
  const terms = { days: 30, byCountry: { DE: { days: 0, to: 'owed' as const } }, most: 5000 }
  const lapse = (country: string, to: 'income' | 'owed', over = {}) =>
    decideLapse(
      { ledger: b.state, terms: { ...terms, ...over }, countries: new Map([[1, country]]) },
      { itemIds: [creditId], to, reason: 'nobody asks' },
    )
  expect(lapseTermsOf(terms, 'FR')).toEqual({ days: 30, to: null })
  expect(rules(lapse('FR', 'income'))).toEqual(['lapse.early'])
  expect(rules(lapse('DE', 'income'))).toEqual(['lapse.country'])
  expect(rules(lapse('DE', 'owed', { most: 2999 }))).toEqual(['lapse.large'])
  const done = lapse('DE', 'owed')
  if (!done.ok) throw new Error('refused')
  expect(done.postings[0]!.lines.map(l => [l.account, l.amount])).toEqual([
    ['1100', 3000],
    ['2310', -3000],
  ])
})

test('unclaimed credits: each once, chosen, with a reason, on the last day of the term and to the limit', () => {
  const { b, creditId } = withCredit(3000)
  const terms = { days: 0, byCountry: {}, most: 3000 }
  const lapse = (itemIds: readonly number[], reason = 'nobody asks', over = {}) =>
    rules(
      decideLapse(
        { ledger: b.state, terms: { ...terms, ...over }, countries: new Map([[1, 'FR']]) },
        { itemIds, to: 'income', reason },
      ),
    )
  expect(lapse([creditId])).toEqual([])
  expect(lapse([])).toEqual(['lapse.some'])
  expect(lapse([creditId], ' ')).toEqual(['lapse.reason'])
  expect(lapse([creditId, creditId])).toEqual(['lapse.twice'])
  expect(lapse([creditId + 1000])).toEqual(['lapse.credit'])
  expect(lapse([creditId], 'x', { most: 2999 })).toEqual(['lapse.large'])
  expect(lapse([creditId], 'x', { days: 1 })).toEqual(['lapse.early'])
})

test('a refund: of something, more than nothing, of one currency, each credit once', () => {
  const { b, creditId } = withCredit(3000)
  const dollars = { ...b.state.items.get(creditId)!, id: creditId + 1, currency: 'USD', number: 'R-USD' }
  b.state.items.set(dollars.id, dollars)
  const of = (credits: { itemId: number; amount: number }[]) => rules(refund(b, creditId, 1, { credits }))
  expect(of([{ itemId: creditId, amount: 3000 }])).toEqual([])
  expect(of([])).toEqual(['refund.some'])
  expect(of([{ itemId: creditId, amount: 0 }])).toContain('refund.amount')
  expect(of([{ itemId: creditId, amount: 0.5 }])).toContain('refund.amount')
  expect(of([{ itemId: creditId, amount: 1 }])).toEqual([])
  expect(
    of([
      { itemId: creditId, amount: 1 },
      { itemId: dollars.id, amount: 1 },
    ]),
  ).toContain('refund.currency')
  expect(
    of([
      { itemId: creditId, amount: 1 },
      { itemId: creditId, amount: 1 },
    ]),
  ).toContain('refund.twice')
})

// The package to-words says the same amounts in its own way.
test('amounts in words, beside an independent package', () => {
  const theirs = new ToWords({ localeCode: 'en-GB' })
  const plain = (text: string) =>
    text
      .toLowerCase()
      .replace(/ and |-/g, ' ')
      .replace(/\s+/g, ' ')
      .trim()
  for (const amount of [
    100, 1999, 12_345_67, 100_000_00, 987_654_321_00, 1_000_001_00, 7_00, 21_00, 110_00,
  ]) {
    const ours = amountInWords(amount, 'EUR', 'en')
    const [words] = ours.split(/ \d/)
    expect(plain(words!)).toBe(plain(theirs.convert(Math.floor(amount / 100))))
    expect(ours).toContain(`${String(amount % 100).padStart(2, '0')}/100`)
  }
  expect(amountInWords(121_040, 'EUR', 'en')).toBe('one thousand two hundred and ten 40/100 Euro')
  expect(amountInWords(2150, 'JPY', 'ja')).toBe('two thousand one hundred and fifty Japanese Yen')
  expect(amountInWords(2100, 'EUR', 'de')).toMatch(/^einundzwanzig 00\/100/)
})
