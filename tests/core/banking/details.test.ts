import { formatOf, readStatements, StatementFault } from '../../../formats/statements'

/*
 * What more a bank tells than who paid how much: charges, foreign amounts, on whose behalf, the payer's own
 * list (ISO 20022 camt.053, elements of version 08; names of elements after the message definition report).
 * Messages before the statement, and BAI2.
 */

const bytes = (text: string) => new TextEncoder().encode(text)

const entry = (details: string, more = '', amount = '970.00') => `
  <Ntry><Amt Ccy="EUR">${amount}</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts><Cd>BOOK</Cd></Sts>
    <BookgDt><Dt>2026-11-13</Dt></BookgDt><ValDt><Dt>2026-11-13</Dt></ValDt>
    <AcctSvcrRef>E-77</AcctSvcrRef><BkTxCd><Prtry><Cd>NTRF</Cd></Prtry></BkTxCd>${more}
    <NtryDtls>${details}</NtryDtls></Ntry>`
const message = (root: string, part: string, entries: string) => `<?xml version="1.0" encoding="UTF-8"?>
  <Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><${root}><GrpHdr><MsgId>M</MsgId></GrpHdr>
  <${part}><Id>S-1</Id><Acct><Id><IBAN>IE64IRCE92050112345678</IBAN></Id><Ccy>EUR</Ccy></Acct>${entries}
  </${part}></${root}></Document>`
const statement = (entries: string) => message('BkToCstmrStmt', 'Stmt', entries)
const linesOf = (xml: string) => readStatements(bytes(xml))[0]!.lines

describe('what a payment tells beside its amount', () => {
  test('charges on the way, what was ordered in another currency, the rate', () => {
    const [line] = linesOf(
      statement(
        entry(
          `<TxDtls><AmtDtls><InstdAmt><Amt Ccy="USD">1100.00</Amt></InstdAmt><TxAmt><Amt Ccy="EUR">985.00</Amt>
            <CcyXchg><SrcCcy>USD</SrcCcy><XchgRate>1.1168</XchgRate></CcyXchg></TxAmt></AmtDtls>
            <Chrgs><Rcrd><Amt Ccy="EUR">15.00</Amt></Rcrd></Chrgs>
            <RltdPties><Dbtr><Pty><Nm>Paygate</Nm></Pty></Dbtr>
            <UltmtDbtr><Pty><Nm>Tarnholm Growers</Nm></Pty></UltmtDbtr></RltdPties></TxDtls>`,
        ),
      ),
    )
    expect(line).toMatchObject({
      amount: 97_000,
      name: 'Paygate',
      entryReference: 'E-77',
      details: {
        ultimate: 'Tarnholm Growers',
        charges: [{ amount: '15.00', currency: 'EUR' }],
        instructed: { amount: '1100.00', currency: 'USD' },
        rate: '1.1168',
      },
    })
  })
  test('documents with amounts: paid, discount, credit note, what was kept back and why', () => {
    const [line] = linesOf(
      statement(
        entry(`<TxDtls><RmtInf>
          <Strd><RfrdDocInf><Tp><CdOrPrtry><Cd>CINV</Cd></CdOrPrtry></Tp><Nb>26-1</Nb></RfrdDocInf>
            <RfrdDocAmt><DuePyblAmt Ccy="EUR">1000.00</DuePyblAmt>
            <DscntApldAmt><Amt Ccy="EUR">20.00</Amt></DscntApldAmt>
            <RmtdAmt Ccy="EUR">980.00</RmtdAmt></RfrdDocAmt></Strd>
          <Strd><RfrdDocInf><Tp><CdOrPrtry><Cd>CREN</Cd></CdOrPrtry></Tp><Nb>C-9</Nb></RfrdDocInf>
            <RfrdDocAmt><CdtNoteAmt Ccy="EUR">110.00</CdtNoteAmt></RfrdDocAmt></Strd>
          <Strd><RfrdDocInf><Nb>26-2</Nb></RfrdDocInf>
            <RfrdDocAmt><DuePyblAmt Ccy="EUR">150.00</DuePyblAmt><AdjstmntAmtAndRsn><Amt Ccy="EUR">50.00</Amt>
            <CdtDbtInd>DBIT</CdtDbtInd><AddtlInf>short delivery</AddtlInf></AdjstmntAmtAndRsn></RfrdDocAmt>
          </Strd></RmtInf></TxDtls>`),
      ),
    )
    expect(line!.details!.remittance).toEqual([
      { number: '26-1', credit: false, due: 100_000, paid: 98_000, discount: 2000, adjusted: 0, reason: '' },
      { number: 'C-9', credit: true, due: null, paid: 11_000, discount: 0, adjusted: 0, reason: '' },
      {
        ...{ number: '26-2', credit: false, due: 15_000, paid: 10_000, discount: 0 },
        ...{ adjusted: 5000, reason: 'short delivery' },
      },
    ])
    // The numbers stand in the text as well, for those who search.
    expect(line!.text).toContain('26-2')
  })
  test('an entry without details keeps its charges; one without more has no details at all', () => {
    const charged = entry('', '<Chrgs><TtlChrgsAndTaxAmt Ccy="EUR">2.50</TtlChrgsAndTaxAmt></Chrgs>')
    expect(linesOf(statement(charged))[0]!.details).toEqual({
      charges: [{ amount: '2.50', currency: 'EUR' }],
    })
    expect(linesOf(statement(entry('<TxDtls></TxDtls>')))[0]!.details).toBeUndefined()
  })
})

describe('messages before the statement', () => {
  test.each([
    ['camt.052', 'BkToCstmrAcctRpt', 'Rpt'],
    ['camt.054', 'BkToCstmrDbtCdtNtfctn', 'Ntfctn'],
  ])('%s tells entries and proves no balance', (format, root, part) => {
    const balance = `<Bal><Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">5.00</Amt>
      <CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>2026-11-13</Dt></Dt></Bal>`
    expect(readStatements(bytes(message(root, part, balance + entry(''))))[0]).toMatchObject({
      format,
      opening: null,
      closing: null,
      lines: [{ amount: 97_000, entryReference: 'E-77' }],
    })
  })
})

// Records after the specification's own example of a summary and details; its figures are ours.
const BAI2 = [
  '01,122099999,123456789,261113,0200,1,65,,2/',
  '02,031001234,122099999,1,261113,2359,EUR,2/',
  '03,00975312,,010,500000,,,015,1490250,,,100,1000000,,/',
  '16,165,1000000,1,DD1620,REF-7,RE2026-00123, 2nd part',
  '88,AND RE2026-00124/',
  '16,698,9750,S,0,9750,0,BC9,,MONTHLY FEES/',
  '49,2000000,5/',
  '98,2000000,1,7/',
  '99,2000000,1,9/',
].join('\r\n')

describe('BAI2', () => {
  test('account, balances, credits and debits; texts may hold commas and go on', () => {
    expect(formatOf(BAI2)).toBe('BAI2')
    expect(readStatements(bytes(BAI2))).toEqual([
      {
        ...{ format: 'BAI2', id: '1 2026-11-13', account: '00975312', currency: 'EUR' },
        ...{ from: '2026-11-13', to: '2026-11-13', opening: 500_000, closing: 1_490_250 },
        lines: [
          expect.objectContaining({
            amount: 1_000_000,
            bookingDate: '2026-11-13',
            bankReference: 'DD1620',
            endToEndId: 'REF-7',
            text: 'RE2026-00123, 2nd part AND RE2026-00124',
            code: 'BAI2-165',
          }),
          expect.objectContaining({ amount: -9750, bankReference: 'BC9', text: 'MONTHLY FEES' }),
        ],
      },
    ])
  })
  test.each([
    ['a lost line', (x: string) => x.replace(/16,698.*\r\n/, ''), /does not add up/],
    ['an amount with a point', (x: string) => x.replace(',1000000,1,', ',10000.00,1,'), /minor units/],
    ['a date of nowhere', (x: string) => x.replace('1,261113,2359', '1,269913,2359'), /not a date/],
    ['a record of another kind', (x: string) => x.replace('49,', '55,'), /"55" is not a record/],
    ['a movement without its account', (x: string) => x.replace(/03,.*\r\n/, ''), /before its account/],
  ])('refused: %s', (_, spoil, message) => {
    expect(() => readStatements(bytes(spoil(BAI2)))).toThrow(StatementFault)
    expect(() => readStatements(bytes(spoil(BAI2)))).toThrow(message)
  })
})
