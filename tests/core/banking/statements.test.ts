import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import fc from 'fast-check'
import { parseCamt053 } from 'camt-parser'
import { CashManagementEndOfDayReport } from 'iso20022.js'
import { read as readSecond } from 'mt940-js'
import { toMajor } from '../../../core/money'
import { readAdvice } from '../../../formats/remittance'
import {
  formatOf,
  guessMap,
  readStatements,
  StatementFault,
  writeCamt,
  type Statement,
  type StatementLine,
} from '../../../formats/statements'

const require = createRequire(join(process.cwd(), 'package.json'))
const folderOf = (name: string) => dirname(require.resolve(`${name}/package.json`))
const bytes = (text: string) => new TextEncoder().encode(text)
const fault = (file: Uint8Array | string, csv?: Parameters<typeof readStatements>[1]): StatementFault => {
  try {
    readStatements(typeof file === 'string' ? bytes(file) : file, csv)
  } catch (error) {
    if (error instanceof StatementFault) return error
    throw error
  }
  throw new Error('the file was taken')
}
const line = (over: Partial<StatementLine> = {}): StatementLine => ({
  bookingDate: '2026-11-13',
  valueDate: '2026-11-13',
  amount: 121_040,
  name: 'Hollin & Sedge',
  iban: 'IE29AIBK93115212345678',
  text: 'Invoice 26-1 < & > "',
  reference: '',
  endToEndId: 'E-1',
  bankReference: 'B1',
  code: 'PMNT-RCDT-ESCT',
  returnReason: '',
  ...over,
})
const statement = (over: Partial<Statement> = {}): Statement => {
  const lines = over.lines ?? [
    line(),
    line({
      amount: -2150,
      name: '',
      iban: '',
      text: 'BANK CHARGES',
      bankReference: 'B2',
      code: 'ACMT-MDOP-CHRG',
      endToEndId: '',
    }),
  ]
  const opening = over.opening ?? 100_000
  return {
    format: 'camt.053',
    id: 'S-1',
    account: 'IE64IRCE92050112345678',
    currency: 'EUR',
    from: '2026-11-13',
    to: '2026-11-13',
    opening,
    closing: opening + lines.reduce((a, l) => a + l.amount, 0),
    lines,
    ...over,
  }
}

describe('camt.053 (ISO 20022)', () => {
  test('what we write is read by two independent readers', async () => {
    const s = statement({
      lines: [
        line(),
        line({ amount: 5, reference: 'RF18539007547034', text: '', bankReference: 'B3' }),
        line({ amount: -2150, name: 'Crate Hire', bankReference: 'B2' }),
      ],
    })
    const xml = writeCamt(s, '2026-11-13T22:00:00')
    // Package iso20022.js.
    const [theirs] = CashManagementEndOfDayReport.fromXML(xml).statements
    expect(theirs!.account).toMatchObject({ iban: s.account })
    expect(
      theirs!.entries.map(e => [e.creditDebitIndicator, Math.round(e.amount), e.accountServicerReferenceId]),
    ).toEqual([
      ['credit', 121_040, 'B1'],
      ['credit', 5, 'B3'],
      ['debit', 2150, 'B2'],
    ])
    expect(theirs!.balances.map(b => [b.type, Math.round(b.amount)])).toEqual([
      ['OPBD', 100_000],
      ['CLBD', s.closing],
    ])
    expect(theirs!.entries[0]!.transactions[0]).toMatchObject({
      remittanceInformation: 'Invoice 26-1 < & > "',
    })
    // Package camt-parser.
    const second = await parseCamt053(xml)
    expect(second.statements[0]!.account.iban).toBe(s.account)
    // This reader knows no debtor's name; creditor, amounts and references it must have right.
    expect(
      second.statements[0]!.transactions.map(t => [t.amount.value, t.details[0]!.references.endToEndId]),
    ).toEqual([
      ['1210.40', 'E-1'],
      ['0.05', 'E-1'],
      ['21.50', 'E-1'],
    ])
    for (const part of ['Crate Hire', 'RF18539007547034']) expect(JSON.stringify(second)).toContain(part)
  })
  test('and read back unchanged, whatever is in it', () => {
    const text = fc
      .string({ unit: fc.constantFrom('a', 'Ü', '&', '<', '"', "'", '7', '-', '€', '漢'), maxLength: 30 })
      .map(t => t.trim())
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            amount: fc.integer({ min: -9_999_999, max: 9_999_999 }).filter(a => a !== 0),
            name: text,
            text,
          }),
          { maxLength: 8 },
        ),
        list => {
          const s = statement({
            lines: list.map((l, i) =>
              line({ ...l, iban: i % 2 ? 'DE89370400440532013000' : '00123456', bankReference: `B${i}` }),
            ),
          })
          expect(readStatements(bytes(writeCamt(s, '2026-11-13T22:00:00')))).toEqual([
            {
              ...s,
              from: s.lines[0]?.bookingDate ?? '2026-11-13',
              lines: s.lines.map(l => ({ ...l, entryReference: l.bankReference })),
            },
          ])
        },
      ),
      { numRuns: 60 },
    )
  })
  // The same statement as the versions differ: 02 has a plain status and party names without Pty, 04 to 07 a
  // coded status, 08 wraps the party.
  const version = (v: string) => `<?xml version="1.0" encoding="UTF-8"?>
      <Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.${v}"><BkToCstmrStmt><GrpHdr>
      <MsgId>M</MsgId><CreDtTm>2026-11-13T20:00:00</CreDtTm></GrpHdr><Stmt><Id>S9</Id>
      <ElctrncSeqNb>7</ElctrncSeqNb><Acct><Id><IBAN>DE89370400440532013000</IBAN>
      </Id>${v === '02' ? '' : '<Ccy>EUR</Ccy>'}</Acct>
    <Bal><Tp><CdOrPrtry><Cd>${v === '02' ? 'PRCD' : 'OPBD'}</Cd></CdOrPrtry></Tp>
      <Amt Ccy="EUR">10.00</Amt><CdtDbtInd>DBIT</CdtDbtInd><Dt><Dt>2026-11-12</Dt></Dt></Bal><Bal>
      <Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">90.00</Amt>
      <CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>2026-11-13</Dt></Dt></Bal>
    <Ntry><Amt Ccy="EUR">100.00</Amt><CdtDbtInd>CRDT</CdtDbtInd>
      <Sts>${v === '02' ? 'BOOK' : '<Cd>BOOK</Cd>'}</Sts><BookgDt><Dt>2026-11-13</Dt></BookgDt>
      <ValDt><DtTm>2026-11-14T00:00:00</DtTm></ValDt><AcctSvcrRef>A1</AcctSvcrRef><BkTxCd><Domn>
      <Cd>PMNT</Cd><Fmly><Cd>RCDT</Cd><SubFmlyCd>ESCT</SubFmlyCd></Fmly></Domn></BkTxCd>
      <NtryDtls><Btch><NbOfTxs>2</NbOfTxs></Btch>${[60, 40]
        .map(
          (a, i) => `<TxDtls><Refs>
      <EndToEndId>${i ? 'NOTPROVIDED' : 'E7'}</EndToEndId></Refs>${
        v === '02'
          ? `<AmtDtls><TxAmt>
      <Amt Ccy="EUR">${a}.00</Amt></TxAmt></AmtDtls>`
          : `<Amt Ccy="EUR">${a}.00</Amt>
      <CdtDbtInd>CRDT</CdtDbtInd>`
      }<RltdPties><Dbtr>${
        v === '08'
          ? `<Pty><Nm>Payer ${i}</Nm>
      </Pty>`
          : `<Nm>Payer ${i}</Nm>`
      }</Dbtr><DbtrAcct><Id><IBAN>IE29AIBK93115212345678</IBAN></Id>
      </DbtrAcct></RltdPties><RmtInf><Ustrd>26-1${i}</Ustrd><Strd><CdtrRefInf>
      <Ref>RF18539007547034</Ref></CdtrRefInf></Strd></RmtInf></TxDtls>`,
        )
        .join('')}</NtryDtls></Ntry>
    <Ntry><Amt Ccy="EUR">5.00</Amt><CdtDbtInd>CRDT</CdtDbtInd>
      <Sts>${v === '02' ? 'PDNG' : '<Cd>PDNG</Cd>'}</Sts><BookgDt><Dt>2026-11-13</Dt></BookgDt>
      </Ntry></Stmt></BkToCstmrStmt></Document>`
  test.each(['02', '03', '04', '05', '06', '07', '08'])(
    'version %s: a batch is told payment by payment, what is pending is left out',
    v => {
      const [s] = readStatements(bytes(version(v)))
      expect(s).toMatchObject({
        account: 'DE89370400440532013000',
        currency: 'EUR',
        id: 'S9 7',
        opening: -1000,
        closing: 9000,
        to: '2026-11-13',
      })
      expect(s!.lines.map(l => [l.amount, l.name, l.text, l.reference, l.endToEndId, l.valueDate])).toEqual([
        [6000, 'Payer 0', '26-10', 'RF18539007547034', 'E7', '2026-11-14'],
        [4000, 'Payer 1', '26-11', 'RF18539007547034', '', '2026-11-14'],
      ])
    },
  )
  test('encodings: what the declaration says, or a clear word', () => {
    const latin = version('08').replace('UTF-8', 'ISO-8859-1').replace('Payer 0', 'Müller')
    expect(readStatements(Uint8Array.from(latin, c => c.charCodeAt(0)))[0]!.lines[0]!.name).toBe('Müller')
    expect(
      fault(Uint8Array.from(latin.replace('ISO-8859-1', 'UTF-8'), c => c.charCodeAt(0))).message,
    ).toMatch(/says it is in utf-8, but its bytes are not/i)
    expect(
      fault(Uint8Array.from(latin.replace('ISO-8859-1', 'KLINGON'), c => c.charCodeAt(0))).message,
    ).toMatch(/not an encoding we know/)
  })
  test.each<[string, (xml: string) => string, RegExp]>([
    ['truncated', x => x.slice(0, x.length / 2), /not whole XML/],
    [
      'entities',
      x => x.replace('?>', '?><!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]>'),
      /document type or entities/,
    ],
    [
      'unbalanced',
      x => x.replace('>90.00<', '>91.00<'),
      /does not add up: opening -1000 and 2 lines of 10000 make 9000, the closing balance is 9100/,
    ],
    [
      'another message',
      x => x.replace(/BkToCstmrStmt/g, 'CstmrPmtStsRpt'),
      /holds a CstmrPmtStsRpt, not a bank statement/,
    ],
    [
      'an entry in another currency',
      x => x.replace('<Amt Ccy="EUR">100.00', '<Amt Ccy="USD">100.00'),
      /in USD, the account in EUR/,
    ],
    ['an amount that is none', x => x.replace('>100.00<', '>1OO<'), /is not an amount/],
    [
      'a date that is none',
      x => x.replace('<Dt>2026-11-13</Dt></BookgDt>', '<Dt>2026-13-11</Dt></BookgDt>'),
      /is not a date/,
    ],
  ])('refused: %s', (_, spoil, message) => {
    expect(fault(spoil(version('08'))).message).toMatch(message)
  })
})

describe('MT940 (SWIFT)', () => {
  // The package mt940js's own example, read by us and by the independent package mt940-js.
  const file = readFileSync(join(folderOf('mt940js'), 'test/test1.mt940'))
  test('the example of a package is read as another package reads it', async () => {
    const ours = readStatements(file)
    const theirs = await readSecond(file)
    expect(
      ours.map(s => [
        s.account,
        s.currency,
        toMajor(s.opening!, s.currency),
        toMajor(s.closing!, s.currency),
      ]),
    ).toEqual(
      theirs.map(s => [
        s.accountId,
        s.openingBalance!.currency,
        s.openingBalance!.value.toFixed(2),
        s.closingBalance!.value.toFixed(2),
      ]),
    )
    // The second reader stumbles over one tag 61 with a free reference (no value date): all it does read must
    // agree.
    const read = theirs.flatMap(s => s.transactions).filter(t => t.valueDate)
    expect(read).toHaveLength(2)
    const lines = ours.flatMap(s => s.lines.map(l => [l.valueDate, toMajor(l.amount, s.currency)]))
    for (const t of read)
      expect(lines).toContainEqual([t.valueDate, ((t.isCredit ? 1 : -1) * t.amount).toFixed(2)])
    expect(lines).toHaveLength(3)
    expect(ours[1]!.lines[0]!.text).toContain('FACTUUR 201403110')
  })
  test('subfields of tag 86 give name, account and text', () => {
    const text =
      ':20:REF1\r\n:25:10020030/1234567\r\n:28C:1/1\r\n:60F:C261112EUR1000,00\r\n' +
      ':61:2611131113C1210,40NTRFNONREF//B77\r\n' +
      ':86:166?00GUTSCHRIFT?20SVWZ+RE 26-1 2?216-2?30AIBKIE2D?31IE29AIBK93115212345678' +
      '?32HOLLIN UND SEDGE\r\n:62F:C261113EUR2210,40\r\n-\r\n'
    expect(readStatements(bytes(text))[0]!.lines[0]).toMatchObject({
      amount: 121_040,
      bookingDate: '2026-11-13',
      name: 'HOLLIN UND SEDGE',
      iban: 'IE29AIBK93115212345678',
      bankReference: 'B77',
    })
  })
  test.each<[string, string, RegExp]>([
    [
      'unbalanced',
      ':20:A\n:25:1\n:28C:1\n:60F:C261112EUR1,00\n:61:2611131113C5,00NTRFX\n:86:x\n:62F:C261113EUR7,00\n-',
      /cannot be read|does not add up/,
    ],
    ['cut off', ':20:A\n:25:1\n:28C:1\n:60F:C261112EUR1,00\n:61:26111', /cannot be read/],
  ])('refused: %s', (_, text, message) => {
    expect(fault(text).message).toMatch(message)
  })
})

describe('OFX', () => {
  // The two examples that come with the package ofx: SGML without end tags, and with them.
  const folder = folderOf('ofx')
  test('the examples of a package', () => {
    const [savings] = readStatements(readFileSync(join(folder, 'test/data/example1.ofx')))
    expect(savings).toMatchObject({
      format: 'OFX',
      account: '1234567-00',
      currency: 'NZD',
      from: '2012-01-01',
      to: '2012-10-04',
      closing: 422_579,
    })
    expect(savings!.lines.map(l => l.amount)).toEqual([1990, -101, -10_000, -7199, -2001])
    expect(savings!.opening).toBe(422_579 - 1990 + 101 + 10_000 + 7199 + 2001)
    const [quicken] = readStatements(readFileSync(join(folder, 'test/data/example-xml.qfx')))
    expect(quicken).toMatchObject({ currency: 'USD' })
    expect(quicken!.lines[0]).toMatchObject({
      amount: 84,
      bookingDate: '2016-12-15',
      bankReference: '21172131531687',
    })
  })
  test('cut off is refused', () => {
    expect(fault(readFileSync(join(folder, 'test/data/example1.ofx')).subarray(0, 900)).message).toMatch(
      /ends before <\/OFX>/,
    )
  })
})

describe('CSV with a column map', () => {
  const csv = {
    map: {
      date: 'Buchung',
      amount: 'Betrag',
      text: ['Verwendungszweck'],
      name: 'Auftraggeber',
      balance: 'Saldo',
      order: 'DMY' as const,
      decimal: ',' as const,
    },
    currency: 'EUR',
    account: 'DE1',
  }
  const text =
    'Buchung;Auftraggeber;Verwendungszweck;Betrag;Saldo\n13.11.2026;Hollin;RE ' +
    '26-1;1.210,40;2.210,40\n12.11.2026;;Entgelt;-10,00;1.000,00\n'
  test('newest first or last, the running balance gives opening and closing', () => {
    const [s] = readStatements(bytes(text), csv)
    expect(s).toMatchObject({ opening: 101_000, closing: 221_040, from: '2026-11-12', to: '2026-11-13' })
    expect(s!.lines.map(l => [l.bookingDate, l.amount, l.text])).toEqual([
      ['2026-11-12', -1000, 'Entgelt'],
      ['2026-11-13', 121_040, 'RE 26-1'],
    ])
  })
  test('a first idea of the map comes from the header and the figures', () => {
    expect(
      guessMap(
        ['buchung', 'auftraggeber', 'verwendungszweck', 'betrag', 'saldo'],
        [{ buchung: '13.11.2026', betrag: '1.210,40' }],
      ),
    ).toMatchObject({
      date: 'buchung',
      amount: 'betrag',
      text: ['verwendungszweck'],
      name: 'auftraggeber',
      balance: 'saldo',
      order: 'DMY',
      decimal: ',',
    })
    expect(guessMap(['date', 'money in', 'money out', 'details'], [{ date: '11/25/2026' }])).toMatchObject({
      moneyIn: 'money in',
      moneyOut: 'money out',
      order: 'MDY',
    })
  })
  test.each<[string, string, RegExp]>([
    ['a missing column', text.replace('Betrag', 'Summe'), /no column "betrag"/],
    ['a wrong date', text.replace('13.11.2026', '13/13/2026'), /not a date in the order DMY/],
    ['an amount that is none', text.replace('1.210,40;', 'viel;'), /is not an amount/],
    ['a balance that does not follow', text.replace('2.210,40', '2.210,41'), /does not follow/],
    ['only a header', text.split('\n')[0]!, /no line/],
    ['an open quote', `${text}"`, /quote/],
  ])('refused: %s', (_, spoilt, message) => {
    expect(fault(spoilt, csv).message).toMatch(message)
  })
  test('it must be said whose account it is', () => {
    expect(fault(text).message).toMatch(/whose account/)
  })
})

test('formats are told by how a file begins', () => {
  expect(
    [
      '<Document/>',
      '{1:F01X}{4:\n:20:A',
      ':20:A',
      'OFXHEADER:100',
      '<?xml version="1.0"?><?OFX OFXHEADER="200"?><OFX>',
      'a,b',
    ].map(formatOf),
  ).toEqual(['camt.053', 'MT940', 'MT940', 'OFX', 'OFX', 'CSV'])
  expect(fault(new Uint8Array()).message).toMatch(/empty/)
})

describe('remittance advice', () => {
  test('CSV: number, amount, discount; empty amount is all of it, negative is a credit', () => {
    expect(
      readAdvice(bytes('number,amount,discount\n26-1,"1,186.19",24.21\n26-2,,\nC-1,-110.40,\n'), 'EUR').lines,
    ).toEqual([
      { number: '26-1', amount: 118_619, discount: 2421, credit: false },
      { number: '26-2', amount: null, discount: 0, credit: false },
      { number: 'C-1', amount: 11_040, discount: 0, credit: true },
    ])
  })
  test('remt.001 (ISO 20022)', () => {
    const xml =
      '<Document xmlns="urn:iso:std:iso:20022:tech:xsd:remt.001.001.05"><RmtAdvc><GrpHdr>' +
      '<MsgId>ADV-9</MsgId></GrpHdr><RmtInf><Strd><RfrdDocInf><Tp><CdOrPrtry><Cd>CINV</Cd>' +
      '</CdOrPrtry></Tp><Nb>26-1</Nb></RfrdDocInf><RfrdDocAmt><DscntApldAmt>' +
      '<Amt Ccy="EUR">24.21</Amt></DscntApldAmt><RmtdAmt Ccy="EUR">1186.19</RmtdAmt></RfrdDocAmt>' +
      '</Strd><Strd><RfrdDocInf><Tp><CdOrPrtry><Cd>CREN</Cd></CdOrPrtry></Tp><Nb>C-1</Nb>' +
      '</RfrdDocInf><RfrdDocAmt><CdtNoteAmt Ccy="EUR">110.40</CdtNoteAmt></RfrdDocAmt></Strd>' +
      '<OrgnlPmtInf><Refs><EndToEndId>E9</EndToEndId></Refs><Amt>' +
      '<InstdAmt Ccy="EUR">1075.79</InstdAmt></Amt><Dbtr><Nm>Hollin</Nm></Dbtr></OrgnlPmtInf>' +
      '</RmtInf></RmtAdvc></Document>'
    expect(readAdvice(bytes(xml), 'EUR')).toMatchObject({
      payer: 'Hollin',
      reference: 'E9',
      total: 107_579,
      lines: [
        { number: '26-1', amount: 118_619, discount: 2421, credit: false },
        { number: 'C-1', amount: 11_040, credit: true },
      ],
    })
    expect(() => readAdvice(bytes(xml), 'GBP')).toThrow(/advice is in EUR, the tick sheet in GBP/)
  })
  test.each([
    ['no number column', 'a,b\n1,2\n', /no column names the document/],
    ['no line', 'number\n', /names no document/],
    ['another XML', '<a/>', /no remittance advice/],
  ])('refused: %s', (_, text, message) => {
    expect(() => readAdvice(bytes(text), 'EUR')).toThrow(message)
  })
})
