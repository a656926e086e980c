import fc from 'fast-check'
import { hostileText } from './values'

/** Files of every format that is read, whole ones that are then damaged. */

export interface TriedFile {
  name: string
  text: string
}

const camt = (today: string, lines = 2) => `<?xml version="1.0" encoding="UTF-8"?>
<Document xmlns="urn:iso:std:iso:20022:tech:xsd:camt.053.001.08"><BkToCstmrStmt><GrpHdr><MsgId>M1</MsgId></GrpHdr>
<Stmt><Id>S1</Id><FrToDt><FrDtTm>${today}T00:00:00</FrDtTm><ToDtTm>${today}T23:59:59</ToDtTm></FrToDt>
<Acct><Id><IBAN>IE64IRCE92050112345678</IBAN></Id><Ccy>EUR</Ccy></Acct>
<Bal><Tp><CdOrPrtry><Cd>OPBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">0.00</Amt><CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>${today}</Dt></Dt></Bal>
<Bal><Tp><CdOrPrtry><Cd>CLBD</Cd></CdOrPrtry></Tp><Amt Ccy="EUR">${lines}.00</Amt><CdtDbtInd>CRDT</CdtDbtInd><Dt><Dt>${today}</Dt></Dt></Bal>
${`<Ntry><Amt Ccy="EUR">1.00</Amt><CdtDbtInd>CRDT</CdtDbtInd><Sts><Cd>BOOK</Cd></Sts><BookgDt><Dt>${today}</Dt></BookgDt>
<NtryDtls><TxDtls><Refs><EndToEndId>E1</EndToEndId></Refs><RmtInf><Ustrd>K1-1</Ustrd></RmtInf></TxDtls></NtryDtls></Ntry>
`.repeat(lines)}</Stmt></BkToCstmrStmt></Document>`

const remt = `<Document><RmtAdvc><GrpHdr><MsgId>A1</MsgId></GrpHdr><RmtInf><Strd><RfrdDocInf><Nb>K1-1</Nb></RfrdDocInf>
<RfrdDocAmt><RmtdAmt Ccy="EUR">100.00</RmtdAmt></RfrdDocAmt></Strd></RmtInf></RmtAdvc></Document>`

const mt940 = (today: string) => {
  const day = today.slice(2).replace(/-/g, '')
  return `:20:STARTUMS\n:25:IE64IRCE92050112345678\n:28C:1/1\n:60F:C${day}EUR0,00
:61:${day}${day.slice(2)}C1,00NTRFNONREF\n:86:K1-1 HOLLIN\n:62F:C${day}EUR1,00\n-`
}

const ofx = (today: string) => {
  const day = today.replace(/-/g, '')
  return `OFXHEADER:100\nDATA:OFXSGML\n\n<OFX><BANKMSGSRSV1><STMTTRNRS><STMTRS><CURDEF>EUR
<BANKACCTFROM><BANKID>1<ACCTID>IE64IRCE92050112345678<ACCTTYPE>CHECKING</BANKACCTFROM>
<BANKTRANLIST><DTSTART>${day}<DTEND>${day}<STMTTRN><TRNTYPE>CREDIT<DTPOSTED>${day}<TRNAMT>1.00<FITID>1<NAME>Hollin
</STMTTRN></BANKTRANLIST><LEDGERBAL><BALAMT>1.00<DTASOF>${day}</LEDGERBAL></STMTRS></STMTTRNRS></BANKMSGSRSV1></OFX>`
}

const wholeFiles = (today: string): TriedFile[] => [
  { name: 'camt', text: camt(today) },
  { name: 'remt', text: remt },
  { name: 'mt940', text: mt940(today) },
  { name: 'ofx', text: ofx(today) },
  { name: 'csv statement', text: `Date;Text;Amount\n${today};K1-1;1.00\n${today};Grüße;-2,50\n` },
  { name: 'csv advice', text: 'number,amount,discount\nK1-1,100.00,\nK1-2,,2.00\n' },
  { name: 'csv documents', text: `number,customer,date,amount\nZ-1,K1,${today},1.00\nZ-2,Kü,${today},2\n` },
  {
    name: 'csv customers',
    text: 'number,name,country,iban\nÅ1,Åse,NO,\nK9,Nine,IE,IE29AIBK93115212345678\n',
  },
  { name: 'csv rates', text: `date,currency,rate\n${today},GBP,1.15\n` },
]

/** What has been seen to bring a server down. */
const special = (today: string): TriedFile[] => [
  { name: 'text empty', text: '' },
  { name: 'deep xml', text: `<Document>${'<a>'.repeat(20_000)}${'</a>'.repeat(20_000)}</Document>` },
  { name: 'deep advice', text: `<Document><RmtAdvc>${'<RmtInf>'.repeat(5000)}` },
  { name: 'deep ofx', text: `OFXHEADER:100\n\n<OFX>${'<A>'.repeat(20_000)}</OFX>` },
  {
    name: 'entities',
    text: '<!DOCTYPE a [<!ENTITY b "bb"><!ENTITY c "&b;&b;&b;&b;">]><Document>&c;&c;</Document>',
  },
  {
    name: 'xml __proto__',
    text: '<Document><__proto__><x>1</x></__proto__><constructor>1</constructor></Document>',
  },
  { name: 'csv __proto__', text: `__proto__,number,customer,date,amount\nx,P-1,K1,${today},1.00\n` },
  { name: 'camt no date', text: camt(today).replace(`${today}T00:00:00`, 'yesterday, I think') },
  { name: 'camt far date', text: camt(today).replaceAll(today, '9999-99-99') },
  { name: 'camt of 40,000 identical lines', text: camt(today, 40_000) },
  {
    name: 'csv wide',
    text: `${Array.from({ length: 5000 }, (_, i) => `c${i}`).join(',')}\n${','.repeat(4999)}\n`,
  },
  { name: 'csv one quote', text: `a,b\n"${'x'.repeat(200_000)}` },
  { name: 'csv long cell', text: `number,customer,date,amount\n${'9'.repeat(100_000)},K1,${today},1.00\n` },
  { name: 'text of brackets', text: '<'.repeat(100_000) },
  { name: 'text binary', text: '\u0000\u0001\u0002PK\u0003\u0004' },
  { name: 'text emoji', text: '💶'.repeat(1000) },
]

type Damage = (text: string) => string

const damages: fc.Arbitrary<Damage> = fc
  .record({ at: fc.double({ min: 0, max: 1, noNaN: true }), to: fc.double({ min: 0, max: 1, noNaN: true }) })
  .chain(({ at, to }) => {
    const place = (text: string) => Math.floor(at * text.length)
    const cutOff: Damage = text => text.slice(0, place(text))
    const dropped: Damage = text => text.slice(0, place(text)) + text.slice(place(text) + 12)
    const repeated: Damage = text => {
      const [from, until] = [place(text), Math.floor(to * text.length)].sort((a, b) => a - b) as [
        number,
        number,
      ]
      return text.slice(0, until) + text.slice(from, until) + text.slice(until)
    }
    const digits: Damage = text =>
      text.replace(/\d/g, d => (Math.sin(place(text) + Number(d)) > 0.6 ? '9' : d))
    return fc.oneof(
      fc.constantFrom(cutOff, dropped, repeated, digits),
      hostileText.map(
        (put): Damage =>
          text =>
            text.slice(0, place(text)) + put + text.slice(place(text)),
      ),
      hostileText.map(
        (put): Damage =>
          text =>
            text.replace(/>[^<]{1,20}</, `>${put}<`),
      ),
      hostileText.map(
        (put): Damage =>
          text =>
            text.replace(/[^,;\n]{1,12}(?=[,;\n])/, () => put),
      ),
    )
  })

export const hostileFiles = (today: string): fc.Arbitrary<TriedFile> =>
  fc.oneof(
    { weight: 1, arbitrary: fc.constantFrom(...special(today)) },
    {
      weight: 3,
      arbitrary: fc
        .record({
          file: fc.constantFrom(...wholeFiles(today)),
          how: fc.array(damages, { minLength: 0, maxLength: 3 }),
        })
        .map(({ file, how }) => ({ ...file, text: how.reduce((text, damage) => damage(text), file.text) })),
    },
  )
