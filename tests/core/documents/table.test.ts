import ExcelJS from 'exceljs'
import fc from 'fast-check'
import { joinCsv, readCsv } from '../../../formats/csv'
import {
  amountOf,
  convertSheet,
  countryOf,
  dateOrderOf,
  dayOf,
  decimalOf,
  encodingOf,
  guessImport,
  readSheet,
  TableFault,
  termsOf,
} from '../../../formats/table'

/*
 * Tables as other programs and spreadsheets write them: any encoding, divider, order of day and month,
 * decimal mark, a title above the names, sums below, names in five languages.
 */

const utf8 = (text: string) => new TextEncoder().encode(text)
const utf16 = (text: string, mark = true) => Buffer.from(`${mark ? '\ufeff' : ''}${text}`, 'utf16le')
const latin = (text: string) => Buffer.from(text, 'latin1')
/** What the import would be given, as objects. */
const taken = async (bytes: Uint8Array, kind?: 'customers' | 'documents' | 'orders') => {
  const sheet = await readSheet(bytes)
  const { map } = guessImport(sheet, kind)
  const { header, rows, lines, leftOut } = convertSheet(sheet, map)
  return { map, lines, leftOut, rows: readCsv(joinCsv(header, rows)).rows.map(r => r.cells) }
}

const GERMAN = [
  'Offene Posten;;;;;;',
  'Stand 16.11.2026;;;;;;',
  'Belegnr.;Belegart;Kundennr.;Belegdatum;Fälligkeit;Währung;Offener Betrag',
  'RE-1001;Rechnung;10023;03.09.2026;03.10.2026;€;1.234,56',
  'GS-17;Gutschrift;10023;05.09.2026;;EUR;-110,40',
  'RE-1002;Rechnung;10024;31.10.26;30.11.26;EUR;98,00',
  'RE-1003;Rechnung;10024;31.10.26;30.11.26;EUR;0,00',
  'Summe;;;;;;1.222,16',
  ';;;;;;',
].join('\r\n')

describe('a list of open items from elsewhere', () => {
  test.each([
    ['UTF-8', utf8(GERMAN)],
    ['UTF-8 with its mark', utf8(`\ufeff${GERMAN}`)],
    ['UTF-16', utf16(GERMAN)],
    ['UTF-16 without its mark', utf16(GERMAN, false)],
    ['Windows-1252', latin(GERMAN.replace('€', '\u0080'))],
    ['with sep=;', utf8(`sep=;\r\n${GERMAN}`)],
    ['with tabs', utf8(GERMAN.replaceAll(';', '\t'))],
  ])('%s', async (_, bytes) => {
    const { map, rows, leftOut, lines } = await taken(bytes)
    expect(map).toMatchObject({ kind: 'documents', headerRow: 2, order: 'DMY', decimal: ',' })
    expect(rows).toMatchObject([
      {
        ...{ number: 'RE-1001', kind: 'invoice', customer: '10023', date: '2026-09-03' },
        ...{ due_date: '2026-10-03', currency: 'EUR', amount: '1234.56' },
      },
      { number: 'GS-17', kind: 'credit-note', amount: '110.40', due_date: '' },
      { number: 'RE-1002', date: '2026-10-31', due_date: '2026-11-30', amount: '98.00' },
    ])
    // One over nothing, and the line of sums that has no customer.
    expect(leftOut).toBe(2)
    expect(lines.slice(-1)[0]! - lines[0]!).toBe(2)
  })
  test('a workbook: days and numbers as such, formulas by what they came to', async () => {
    const book = new ExcelJS.Workbook()
    const sheet = book.addWorksheet('Export')
    sheet.addRow(['Kunden 2026'])
    sheet.addRow(['Invoice number', 'Customer number', 'Invoice date', 'Due Date', 'Open amount', 'Currency'])
    sheet.addRow(['INV/26/1', 10023, new Date('2026-09-03T00:00:00Z'), 46_298, 1234.56, 'EUR'])
    sheet.addRow(['INV/26/2', 10024, '31/12/2025', '', { formula: 'E3*2', result: 2469.12 }, 'EUR'])
    const bytes = new Uint8Array((await book.xlsx.writeBuffer()) as ArrayBuffer)
    expect((await taken(bytes)).rows).toMatchObject([
      {
        number: 'INV/26/1',
        customer: '10023',
        date: '2026-09-03',
        due_date: '2026-10-03',
        amount: '1234.56',
      },
      { number: 'INV/26/2', date: '2025-12-31', amount: '2469.12' },
    ])
  })
  test('debits and credits in columns of their own', async () => {
    const { rows } = await taken(
      utf8(
        'N° pièce,Code client,Date,Échéance,Débit,Crédit\nF1,C7,31/12/2025,30/01/2026,"1 200,50",\nA2,C7,02/01/2026,,,"20,00"\n',
      ),
    )
    expect(rows).toMatchObject([
      { number: 'F1', customer: 'C7', date: '2025-12-31', amount: '1200.50' },
      { number: 'A2', kind: 'credit-note', amount: '20.00' },
    ])
  })
})

describe('customers from elsewhere', () => {
  test.each([
    ['English', 'Customer No,Customer Name,Address,Zip,City,Country,E-Mail,Payment Terms'],
    ['German', 'Kundennr.,Firma,Straße,PLZ,Ort,Land,E-Mail,Zahlungsbedingungen'],
    ['French', 'Code client,Raison sociale,Adresse,Code postal,Ville,Pays,Courriel,Conditions de paiement'],
    ['Italian', 'Codice cliente,Ragione sociale,Indirizzo,CAP,Città,Paese,E-mail,Condizioni di pagamento'],
    [
      'Spanish',
      'Código cliente,Razón social,Dirección,Código postal,Población,País,Correo electrónico,Plazo',
    ],
  ])('%s names', async (_, names) => {
    const { map, rows } = await taken(
      utf8(`${names}\nK7,Müller & Söhne,Hauptstr. 1,01067,Dresden,Deutschland,a@b.example,30 Tage netto\n`),
    )
    expect(map.kind).toBe('customers')
    expect(rows).toEqual([
      {
        ...{ number: 'K7', name: 'Müller & Söhne', street: 'Hauptstr. 1', postcode: '01067' },
        ...{ city: 'Dresden', country: 'DE', email: 'a@b.example', terms: 'net 30' },
      },
    ])
  })
  test('documents that name their customer stay documents', async () => {
    const { map } = await taken(
      utf8('Invoice no,Customer no,Customer name,Date,Amount\n1,K7,Müller,2026-01-02,10.00\n'),
    )
    expect(map).toMatchObject({ kind: 'documents', columns: { number: 0, customer: 1, date: 3, amount: 4 } })
  })
})

describe('cells', () => {
  test.each([
    ['31/12/2025', 'DMY', '2025-12-31'],
    ['12/31/2025', 'MDY', '2025-12-31'],
    ['31.12.25', 'DMY', '2025-12-31'],
    ['2025-12-31', 'MDY', '2025-12-31'],
    ['2025-12-31T00:00:00', 'DMY', '2025-12-31'],
    ['20251231', 'DMY', '2025-12-31'],
    ['1/2/26 10:30', 'DMY', '2026-02-01'],
    ['12-Nov-26', 'DMY', '2026-11-12'],
    ['12. Dezember 2026', 'DMY', '2026-12-12'],
    ['3 févr. 2026', 'DMY', '2026-02-03'],
    ['Nov 12, 2026', 'MDY', '2026-11-12'],
    [45_992, 'DMY', '2025-12-01'],
    ['45992', 'DMY', '2025-12-01'],
    ['31/02/2026', 'DMY', '31/02/2026'],
    ['soon', 'DMY', 'soon'],
  ] as const)('the day %s read %s is %s', (cell, order, day) => {
    expect(dayOf(cell, order)).toBe(day)
  })
  test.each([
    ['1.234,56', ',', '1234.56'],
    ['1,234.56', '.', '1234.56'],
    ['1 234,56 €', ',', '1234.56'],
    ["1'234.56", '.', '1234.56'],
    ['EUR 12,00', ',', '12.00'],
    ['(12.50)', '.', '-12.50'],
    ['12,50-', ',', '-12.50'],
    ['12.50 CR', '.', '-12.50'],
    ['12,50 S', ',', '12.50'],
    [1234.5, ',', '1234.5'],
    [0.1 + 0.2, ',', '0.3'],
    ['twelve', ',', 'twelve'],
    ['', '.', ''],
  ] as const)('the amount %s with %s is %s', (cell, decimal, amount) => {
    expect(amountOf(cell, decimal)).toBe(amount)
  })
  test('which form it is, is told by the cells', () => {
    expect(dateOrderOf(['01/02/2026', '13/02/2026'])).toEqual({ order: 'DMY', unsure: false })
    expect(dateOrderOf(['01/02/2026', '02/13/2026'])).toEqual({ order: 'MDY', unsure: false })
    expect(dateOrderOf(['01/02/2026'])).toEqual({ order: 'DMY', unsure: true })
    expect(dateOrderOf(['01.02.2026'])).toEqual({ order: 'DMY', unsure: false })
    expect([['1.234,56'], ['1,234.56'], ['12,5'], ['1.234'], ['7']].map(decimalOf)).toEqual([
      ',',
      '.',
      ',',
      ',',
      '.',
    ])
  })
  test('countries by name or three letters, terms in words', () => {
    expect(['DEU', 'Frankreich', 'Italia', 'España', 'ie', 'Atlantis'].map(countryOf)).toEqual([
      'DE',
      'FR',
      'IT',
      'ES',
      'IE',
      'Atlantis',
    ])
    expect(
      ['30', '60 jours fin de mois', '14 Tage 2 % Skonto, 30 Tage netto', 'net 45', 'cash'].map(termsOf),
    ).toEqual(['net 30', 'eom 60', '2% 14, net 30', 'net 45', 'cash'])
  })
  test('any amount written in a local form is read back', () => {
    const locales = ['en-GB', 'de-DE', 'fr-FR', 'it-IT', 'de-CH']
    fc.assert(
      fc.property(
        fc.integer({ min: -99_999_999, max: 99_999_999 }),
        fc.constantFrom(...locales),
        (minor, locale) => {
          const format = new Intl.NumberFormat(locale, { minimumFractionDigits: 2 })
          const decimal = format.formatToParts(1.5).find(p => p.type === 'decimal')!.value as '.' | ','
          expect(Number(amountOf(format.format(minor / 100), decimal))).toBe(minor / 100)
        },
      ),
    )
  })
})

test('encodings are told by their bytes', () => {
  expect([utf8('é'), utf16('é'), utf16('abcdef', false), latin('é')].map(encodingOf)).toEqual([
    'utf-8',
    'utf-16le',
    'utf-16le',
    'windows-1252',
  ])
})

test.each([
  ['nothing', new Uint8Array()],
  ['a workbook of the old form', new Uint8Array([0xd0, 0xcf, 0x11, 0xe0])],
  ['what only begins like a workbook', new Uint8Array([0x50, 0x4b, 3, 4, 0, 0])],
  ['blank lines', utf8('\n\n ;; \n')],
])('refused with a word that helps: %s', async (_, bytes) => {
  await expect(readSheet(bytes)).rejects.toThrow(TableFault)
})

test('a list of orders from elsewhere, and what its states are called', async () => {
  const orders = [
    'Auftragsnr;Kundennr;Auftragsdatum;Währung;Auftragswert;Geliefert;Berechnet;Status',
    'A-1;10023;03.11.2026;EUR;4.800,00;1.200,00;0,00;offen',
    'A-2;10024;04.11.2026;EUR;950,00;950,00;950,00;erledigt',
    'A-3;10024;05.11.2026;EUR;70,00;0,00;0,00;storniert',
    'Summe;;;;5.820,00;2.150,00;950,00;',
  ].join('\r\n')
  const { map, rows, leftOut } = await taken(utf8(orders))
  expect(map).toMatchObject({ kind: 'orders', order: 'DMY', decimal: ',' })
  expect(rows).toMatchObject([
    {
      number: 'A-1',
      customer: '10023',
      date: '2026-11-03',
      amount: '4800.00',
      delivered: '1200.00',
      state: 'open',
    },
    { number: 'A-2', invoiced: '950.00', state: 'closed' },
    { number: 'A-3', amount: '70.00', state: 'cancelled' },
  ])
  expect(leftOut).toBe(1)
  // What nobody calls a state is told by the import as a fault of its cell.
  const odd = await taken(utf8('number,customer,date,amount,state\r\nA-4,1,2026-11-05,7.00,maybe\r\n'))
  expect(odd.rows).toMatchObject([{ state: 'maybe' }])
})

test('documents with a number of an order are documents all the same', async () => {
  const { map } = await taken(
    utf8('Invoice no,Customer no,Invoice date,Order no,Amount\r\n1,10023,2026-11-05,PO-7,5.00\r\n'),
  )
  expect(map).toMatchObject({ kind: 'documents', columns: { order: 3 } })
})
