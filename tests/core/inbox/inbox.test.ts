import { amountIn, dateIn, readMail, withoutQuotes } from '../../../core/inbox'

const TODAY = '2026-11-16'
const read = (text: string, set: { subject?: string; isAutomatic?: boolean; status?: string } = {}) =>
  readMail(
    {
      subject: set.subject ?? 'Re: reminder',
      text,
      isAutomatic: set.isAutomatic ?? false,
      status: set.status ?? null,
    },
    TODAY,
  )

describe('days as people write them', () => {
  test.each([
    ['we pay on 20 November', '2026-11-20'],
    ['wir überweisen am 20.11.', '2026-11-20'],
    ['am 3. Dezember', '2026-12-03'],
    ['le 2 décembre 2026', '2026-12-02'],
    ['2026-12-24 at the latest', '2026-12-24'],
    ['next Friday', '2026-11-20'],
    ['on Monday', '2026-11-23'],
    ['5/1', '2027-01-05'],
    ['your letter of 2 November: paid on 30 November', '2026-11-30'],
  ])('%s', (text, date) => expect(dateIn(text, TODAY)).toBe(date))
  test.each(['31.02.', 'invoice 26-1906', 'as agreed', 'page 12 of 14'])('none: %s', text =>
    expect(dateIn(text, TODAY)).toBeNull(),
  )
})

test.each([
  ['EUR 1,210.40', 121_040],
  ['1.210,40 €', 121_040],
  ["1'210.40 EUR", 121_040],
  ['we pay € 900 now', 90_000],
  ['12 bags of 25 kg', null],
  ['We will pay JPY 1,105,200 on Friday', 1_105_200],
  ['¥98000 next week', 98_000],
  ['11,052円をお支払いします', 11_052],
  ['EUR 12.50, that is JPY 2,000', 1250],
])('amount in %s', (text, amount) => expect(amountIn(text)).toBe(amount))

test('what is quoted of our own letter is not what they say', () => {
  const text =
    'Will be paid on 24 November.\n\nOn 16 Nov 2026, Wrackline wrote:\n> if goods were damaged, tell us'
  expect(withoutQuotes(text)).toBe('Will be paid on 24 November.')
  expect(read(text)).toMatchObject({ kind: 'promise', values: { date: '2026-11-24' } })
})

test.each([
  ['Half of it came wet, we do not pay 26-1906', 'dispute'],
  ['Please send a copy of 26-1906, we never received the invoice', 'copy'],
  ['Wir überweisen 1.210,40 € am 24.11.', 'promise'],
  ['I am no longer responsible. Please write to ap@dune.example instead', 'person'],
  ['Thank you, have a nice day', 'other'],
])('%s', (text, kind) => expect(read(text).kind).toBe(kind))

test('what no person wrote is an absence, however it is worded; a report of delivery only when it is for good', () => {
  expect(read('Back on 23 November', { isAutomatic: true })).toMatchObject({
    kind: 'absent',
    values: { date: '2026-11-23' },
  })
  expect(read('could not be delivered', { status: '5.1.1' }).kind).toBe('bounce')
  expect(read('delayed, we try again', { status: '4.4.1' }).kind).toBe('other')
})

test('numbers of documents are read, days and amounts are not', () => {
  expect(read('26-1906 and 4711052 of 02.11.2026 over 1,210.40').values.numbers).toEqual([
    '26-1906',
    '4711052',
  ])
})

test.each([
  ['The price on 26-0885 is wrong, we agreed on less in spring. Please correct it.', 'price'],
  ['your invoice 26-12 was not correct', 'other'],
  ['Sorry but the quantity looks wrong to us', 'quantity'],
  ['Der Preis auf 26-7 stimmt nicht.', 'price'],
  ['le prix n’est pas correct', 'price'],
])('a complaint in other words: %s', (text, reason) => {
  const mail = { subject: 'Re: reminder', text, isAutomatic: false, status: null }
  expect(readMail(mail, '2026-11-16')).toMatchObject({ kind: 'dispute', values: { reason } })
})
