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
  test('as spreadsheets write it: sep=, tabs, empty rows below and empty columns beside', () => {
    const rows = [
      { line: 3, cells: { number: 'K1', name: 'Hollin' } },
      { line: 4, cells: { number: 'K2', name: 'Sedge, & co' } },
    ]
    const table = { header: ['number', 'name'], rows }
    expect(
      readCsv('sep=;\r\nNumber;Name;;\r\nK1;Hollin;;\r\nK2;Sedge, & co;;\r\n;;;\r\n;;;\r\n\r\n'),
    ).toEqual(table)
    expect(readCsv('\uFEFFsep=|\nNumber|Name\nK1|Hollin\nK2|Sedge, & co\n')).toEqual(table)
    const tabs = readCsv('Number\tName\nK1\tHollin\nK2\tSedge, & co\n')
    expect(tabs.rows.map(r => r.cells)).toEqual(rows.map(r => r.cells))
  })
  test('every row that does not fit is told, by its line', () => {
    const lines = (() => {
      try {
        readCsv('a,b\n1,2\n3\n4,5,6\n7,8\n9,"x\ny",z\n')
        return []
      } catch (error) {
        return (error as CsvFault).all.map(f => f.line)
      }
    })()
    expect(lines).toEqual([3, 4, 6])
  })
  test('a name with any line break comes back as it was', () => {
    for (const name of ['two\nlines', 'two\r\nlines', 'two\rlines']) {
      const text = writeCsv(
        ['number', 'name'],
        [
          ['K1', name],
          ['K2', 'plain'],
        ],
      )
      const read = parse(text, { columns: true, record_delimiter: '\r\n' }) as { name: string }[]
      expect(read.map(r => r.name)).toEqual([name, 'plain'])
    }
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
