import fc from 'fast-check'
import { parse } from 'csv-parse/sync'
import { CsvFault, defuse, readCsv, writeCsv } from '../../../formats/csv'

describe('reading CSV by RFC 4180', () => {
  test('quotes, doubled quotes, line breaks in cells, BOM, semicolons, CRLF', () => {
    // RFC 4180, section 2, rules 5 to 7.
    expect(
      readCsv('\uFEFFNumber;name\r\nK1;"Hollin ""&"" Sedge; Foods"\r\nK2;"two\r\nlines"\r\nK3;x\r\n'),
    ).toEqual({
      header: ['number', 'name'],
      rows: [
        { line: 2, cells: { number: 'K1', name: 'Hollin "&" Sedge; Foods' } },
        { line: 3, cells: { number: 'K2', name: 'two\nlines' } },
        { line: 5, cells: { number: 'K3', name: 'x' } },
      ],
    })
  })
  test.each([
    ['', 'is empty', 1],
    ['number,name\nK1,"open', 'never closed', 2],
    ['number,name\nK1', '1 cells, the header has 2', 2],
    ['number,number\nK1,K2', 'stands twice', 1],
    ['number,name\nK1,a"b', 'inside an unquoted cell', 2],
    ['number,name\nK1,"a"b', 'follows a closing quote', 2],
  ])('%j is refused', (text, why, line) => {
    const fault = (() => {
      try {
        readCsv(text)
        return null
      } catch (error) {
        return error as CsvFault
      }
    })()
    expect(fault).toBeInstanceOf(CsvFault)
    expect(fault!.message).toContain(why)
    expect(fault!.line).toBe(line)
  })
  test('what is written is read back', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc
            .array(
              fc.string({ unit: 'grapheme' }).filter(s => s === s.trim() && !/^[=+\-@]|\r/.test(s)),
              { minLength: 2, maxLength: 2 },
            )
            .filter(r => r.some(Boolean)),
          { minLength: 1 },
        ),
        rows => {
          expect(readCsv(writeCsv(['a', 'b'], rows)).rows.map(r => [r.cells.a, r.cells.b])).toEqual(rows)
          expect(parse(writeCsv(['a', 'b'], rows))).toHaveLength(rows.length + 1)
        },
      ),
    ))
})

describe('spreadsheet cells', () => {
  // Source: OWASP, CSV injection.
  test.each([
    ['=1+1', "'=1+1"],
    ['@SUM(A1)', "'@SUM(A1)"],
    ['+353 1', "'+353 1"],
    ['-12.50', '-12.50'],
    ['-x', "'-x"],
    ['plain', 'plain'],
  ])('%s', (cell, safe) => expect(defuse(cell)).toBe(safe))
})
