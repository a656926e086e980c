import { readStatements } from '../../../formats/statements'

/*
 * MT940 as banks write it: SWIFT's category 9 for the tags; sub-fields ?20 to ?29 and the marks EREF+, SVWZ+
 * and others inside them by the convention of the German banks (common practice, from memory).
 */

const file = (lines: string, { account = 'DE89370400440532013000', from = '261230', to = '270104' } = {}) =>
  Buffer.from(
    `:20:STARTUMS\r\n:25:${account}\r\n:28C:1/1\r\n:60F:C${from}EUR0,00\r\n${lines}\r\n:62F:C${to}EUR100,00\r\n-\r\n`,
  )
const read = (lines: string, over = {}) => readStatements(file(lines, over))[0]!

test(':61: without an entry date: booked on its value date', () => {
  expect(read(':61:261231C100,00NTRFNONREF\r\n:86:Invoice 4711').lines[0]).toMatchObject({
    bookingDate: '2026-12-31',
    valueDate: '2026-12-31',
    amount: 10_000,
    text: 'Invoice 4711',
  })
})
test.each([
  ['booked in January, valued in December', '2612310104', '2027-01-04', '2026-12-31'],
  ['booked in December, valued in January', '2701041230', '2026-12-30', '2027-01-04'],
  ['the same year', '2612310102', '2027-01-02', '2026-12-31'],
])('entry date across the year end: %s', (_, dates, bookingDate, valueDate) => {
  expect(read(`:61:${dates}C100,00NTRFNONREF\r\n:86:x`).lines[0]).toMatchObject({ bookingDate, valueDate })
})
test('sub-fields of 27 signs are one text, without spaces of ours', () => {
  const [line] = read(
    ':61:2612311231C100,00NTRFNONREF//BANKREF1\r\n' +
      ':86:166?00GUTSCHRIFT?109310?20EREF+2026-11-ABC?21KREF+K77?22MREF+M-001?23SVWZ+Rechnung 26-33\r\n' +
      '?2481 und 26-3382, danke?30COBADEFFXXX?31DE44500105175407324931?32Hollin & Sedge Fo?33ods GmbH',
  ).lines
  expect(line).toMatchObject({
    text: 'Rechnung 26-3381 und 26-3382, danke',
    endToEndId: '2026-11-ABC',
    name: 'Hollin & Sedge Foods GmbH',
    iban: 'DE44500105175407324931',
    bankReference: 'BANKREF1',
  })
})
test('a chunk that ends with a space keeps it; without SVWZ+ all of it is the text', () => {
  const [line] = read(
    ':61:2612311231C100,00NTRFNONREF\r\n:86:166?20Invoice 26-3381 less ?21credit C-12?32Fjordlys Fisk',
  ).lines
  expect(line).toMatchObject({ text: 'Invoice 26-3381 less credit C-12', name: 'Fjordlys Fisk' })
})
test('EREF+ NOTPROVIDED is none; a returned debit tells its reason', () => {
  const [line] = read(
    ':61:2612311231C100,00NRTINONREF\r\n' +
      ':86:109?00RETURN?20EREF+NOTPROVIDED?21SVWZ+RETURN/REFUND, REASON: AC04 CL?22OSED?32Fjordlys',
  ).lines
  expect(line).toMatchObject({ endToEndId: '', text: 'RETURN/REFUND, REASON: AC04 CLOSED' })
})
test.each([
  ['DE89370400440532013000', 'DE89370400440532013000'],
  ['37040044/0532013000', '0532013000'],
  ['37040044/0532013000EUR', '0532013000'],
  ['IE64IRCE92050112345678EUR', 'IE64IRCE92050112345678'],
])(':25:%s', (account, told) => {
  expect(read(':61:2612311231C100,00NTRFNONREF\r\n:86:x', { account }).account).toBe(told)
})
