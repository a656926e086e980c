import sepa from 'sepa'
import { isSEPACountry } from 'ibantools'
import { creditorIdFault, isReached, refusedBy, RETURN_REASONS, strangersIn } from '../../../core/payments'
import type { BankAnswer } from '../../../core/payments'
import {
  fileFaults,
  readPain,
  readPain002,
  referenceFault,
  sepaText,
  writePain001,
  writePain002,
  writePain008,
  type FileFault,
} from '../../../formats/payments'
import { againstSchema, debits, OWN, transfers } from './files'

const TODAY = '2026-11-16'

describe('files are valid against schemas that are not ours', () => {
  // Debian's libhbci4j-core-java, with libxml2's xmllint.
  test.each(['pain.001.001.09', 'pain.001.001.03'] as const)('%s', async format => {
    expect(await againstSchema(format, writePain001(transfers({ format })))).toBe('')
  })
  test.each(['pain.008.001.08', 'pain.008.001.02'] as const)('%s, CORE and B2B', async format => {
    for (const scheme of ['CORE', 'B2B'] as const)
      expect(await againstSchema(format, writePain008(debits({ format, scheme })))).toBe('')
  })
  test('pain.001.001.09 in pounds, kroner and yen: as many decimals as each has', async () => {
    for (const [currency, amount] of [
      ['GBP', '123.45'],
      ['NOK', '123.45'],
      ['JPY', '12345'],
    ] as const) {
      const xml = writePain001(transfers({ currency }))
      expect(await againstSchema('pain.001.001.09', xml)).toBe('')
      expect(xml).toContain(`Ccy="${currency}">${amount}<`)
    }
    expect(() => writePain001(transfers({ currency: 'GBP', format: 'pain.001.001.03' }))).toThrow(RangeError)
    expect(() => writePain008(debits({ currency: 'GBP' }))).toThrow(RangeError)
  })
  test('pain.002.001.10, as the simulated bank answers', async () => {
    const answer: BankAnswer = {
      id: 'ST-1',
      fileId: 'PF-00002',
      status: 'PART',
      code: '',
      text: '',
      blocks: [],
      payments: [{ endToEndId: 'DD-00002', status: 'RJCT', code: 'AC04', text: 'closed' }],
    }
    const xml = writePain002({
      answer,
      of: 'pain.008.001.08',
      createdAt: '2026-11-16T19:00:00',
      bank: { name: 'Bank', bic: '' },
      blockOf: () => 'PF-00002-2',
    })
    expect(await againstSchema('pain.002.001.10', xml)).toBe('')
    expect(readPain002(xml)).toEqual({
      ...answer,
      blocks: [{ id: 'PF-00002-2', status: '', code: '', text: '' }],
    })
  })
})

describe('beside an independent writer, the package sepa', () => {
  /** The same payments, told by both; what each says in its own way is left out of the comparison. */
  const told = (xml: string) =>
    readPain(xml).blocks.flatMap(b =>
      b.payments.map(p => [
        b.date,
        b.sequence,
        p.endToEndId,
        p.amount,
        p.currency,
        p.iban,
        p.mandate?.reference ?? '',
      ]),
    )
  const plain = (name: string) => sepaText(name, 70).text

  test('pain.008: count, sum, days, sequences, mandates, accounts', () => {
    const ours = debits()
    const doc = new sepa.Document('pain.008.001.02')
    doc.grpHdr.id = ours.id
    doc.grpHdr.created = new Date('2026-11-16T09:30:00')
    doc.grpHdr.initiatorName = plain(OWN.name)
    for (const block of ours.blocks) {
      const info = doc.createPaymentInfo()
      info.collectionDate = new Date(`${block.date}T12:00:00`)
      info.creditorIBAN = OWN.iban
      info.creditorBIC = OWN.bic
      info.creditorName = plain(OWN.name)
      info.creditorId = ours.creditorId
      info.sequenceType = block.sequence
      info.localInstrumentation = ours.scheme
      info.batchBooking = true
      doc.addPaymentInfo(info)
      for (const d of block.debits) {
        const tx = info.createTransaction()
        tx.debtorName = plain(d.party.name)
        tx.debtorIBAN = d.party.iban
        if (d.party.bic) tx.debtorBIC = d.party.bic
        tx.mandateId = d.mandate.reference
        tx.mandateSignatureDate = new Date(`${d.mandate.signedOn}T12:00:00`)
        tx.amount = d.amount / 100
        tx.remittanceInfo = d.text
        tx.end2endId = d.endToEndId
        info.addTransaction(tx)
      }
    }
    const theirs = doc.toString()
    const own = writePain008({ ...ours, format: 'pain.008.001.02' })
    expect(told(theirs)).toEqual(told(own))
    const [a, b] = [readPain(theirs), readPain(own)]
    expect([b.count, b.sum]).toEqual([a.count, Number(a.sum).toFixed(2)])
    expect(b.blocks.map(x => [x.count, x.creditorId, x.scheme])).toEqual(
      a.blocks.map(x => [x.count, x.creditorId, x.scheme]),
    )
  })
  test('pain.001: count, sum, accounts, names in the signs of the SEPA', () => {
    const ours = transfers()
    const doc = new sepa.Document('pain.001.001.09')
    doc.grpHdr.id = ours.id
    doc.grpHdr.created = new Date('2026-11-16T09:30:00')
    doc.grpHdr.initiatorName = plain(OWN.name)
    const info = doc.createPaymentInfo()
    info.requestedExecutionDate = new Date(`${ours.date}T12:00:00`)
    info.debtorIBAN = OWN.iban
    info.debtorBIC = OWN.bic
    info.debtorName = plain(OWN.name)
    doc.addPaymentInfo(info)
    for (const p of ours.payments) {
      const tx = info.createTransaction()
      tx.creditorName = plain(p.party.name)
      tx.creditorIBAN = p.party.iban
      if (p.party.bic) tx.creditorBIC = p.party.bic
      tx.amount = p.amount / 100
      tx.remittanceInfo = sepaText(p.text, 140).text
      tx.end2endId = p.endToEndId
      info.addTransaction(tx)
    }
    const [a, b] = [readPain(doc.toString()), readPain(writePain001(ours))]
    expect(b.blocks[0]!.payments.map(p => [p.endToEndId, p.amount, p.iban, p.name, p.text])).toEqual(
      a.blocks[0]!.payments.map(p => [p.endToEndId, p.amount, p.iban, p.name, p.text]),
    )
    expect([b.blocks[0]!.date, b.count]).toEqual([a.blocks[0]!.date, a.count])
  })
  test('creditor identifiers and IBANs are judged alike', () => {
    for (const id of ['DE98ZZZ09999999999', 'DE98ABC09999999999', 'DE97ZZZ09999999999', 'IE16ZZZ360099'])
      expect(creditorIdFault(id) === '').toBe(sepa.validateCreditorID(id))
    // ISO 13616 examples of checks.md.
    for (const iban of ['GB82WEST12345698765432', 'DE89370400440532013000', 'DE88370400440532013000'])
      expect(isReached(iban)).toBe(sepa.validateIBAN(iban))
  })
})

describe('what no schema sees', () => {
  const faultsOf = (xml: string, day = TODAY) => fileFaults(readPain(xml), day)
  const codes = (faults: FileFault[]) => [...new Set(faults.map(f => f.code))]
  const good = writePain008(debits())
  const transfer = writePain001(transfers())
  test('nothing is wrong with ours', () => {
    expect([faultsOf(good), faultsOf(transfer)]).toEqual([[], []])
  })
  /** Each breaks one thing that every schema lets pass; the code that a bank would refuse it with. */
  const MUTATIONS: [what: string, change: (xml: string) => string, code: string][] = [
    ['the count of the head', x => x.replace('<NbOfTxs>3', '<NbOfTxs>4'), 'AM18'],
    ['the control sum of the head', x => x.replace(/<CtrlSum>[\d.]+/, '<CtrlSum>1003.02'), 'AM10'],
    ['the control sum of a block', x => x.replace('<CtrlSum>999.99', '<CtrlSum>999.98'), 'AM10'],
    ['the count of a block', x => x.replace('<NbOfTxs>2', '<NbOfTxs>1'), 'AM18'],
    ['one digit of an account', x => x.replace('IE29AIBK93115212345678', 'IE29AIBK93115212345679'), 'AC01'],
    [
      'an account outside the SEPA',
      x => x.replace('IE29AIBK93115212345678', 'BR1800360305000010009795493C1'),
      'AC01',
    ],
    ['the same end-to-end id twice', x => x.replace('DD-00003', 'DD-00002'), 'AM05'],
    ['a day on which no bank works', x => x.replaceAll('2026-11-24', '2026-12-25'), 'DT01'],
    ['a day too early for the scheme', x => x.replaceAll('2026-11-24', '2026-11-16'), 'DT01'],
    ['a mandate signed after the collection', x => x.replace('2026-01-15', '2026-11-25'), 'MD01'],
    ['check digits of the creditor identifier', x => x.replaceAll('DE98ZZZ', 'DE99ZZZ'), 'BE09'],
    ['a reference with a double slash', x => x.replace('<MsgId>PF-00002', '<MsgId>PF//0002'), 'RR12'],
    ['an amount of nothing', x => x.replace('>0.02<', '>0.00<'), 'AM01'],
    ['two blocks of one id', x => x.replace('PF-00002-2', 'PF-00002-1'), 'AM05'],
  ]
  test.each(MUTATIONS)('%s is caught', (_, change, code) => {
    const broken = change(good)
    expect(broken).not.toBe(good)
    expect(codes(faultsOf(broken))).toContain(code)
  })
  test('a transfer of yesterday, and one that counts another number', () => {
    expect(codes(faultsOf(transfer.replace('2026-11-17', '2026-11-13')))).toEqual(['DT01'])
    expect(codes(faultsOf(transfer.replace('<NbOfTxs>2', '<NbOfTxs>20')))).toEqual(['AM18'])
  })
})

describe('texts and references', () => {
  // EPC217-08, from memory.
  test('only signs that every bank takes, told when that changes what is read', () => {
    expect(sepaText('Müller & Søn "Łódź" Ελλάς_1@x;y', 70)).toEqual({
      text: "Mueller + Son 'Lodz' Ellas-1(at)x,y",
      changed: true,
    })
    expect(sepaText("Plain (1) text/2, it's: fine?", 70).changed).toBe(false)
    expect(sepaText('a'.repeat(100), 70).text.length).toBe(70)
    expect(sepaText('  ‑‑  ', 70).text).not.toMatch(/[^a-zA-Z0-9/\-?:().,'+ ]/)
  })
  test('references', () => {
    expect(['RF-00001', 'M/1', '+1:2'].map(referenceFault)).toEqual(['', '', ''])
    for (const bad of ['', '/a', 'a/', 'a//b', 'ü', 'x'.repeat(36)]) expect(referenceFault(bad)).not.toBe('')
  })
  test('the reach of the SEPA is that of ibantools, and Britain and Switzerland are in it', () => {
    expect(['GB', 'CH', 'NO', 'IE'].every(isSEPACountry)).toBe(true)
    expect([isReached('GB82WEST12345698765432'), isReached('BR1800360305000010009795493C1')]).toEqual([
      true,
      false,
    ])
  })
})

describe('answers of the bank', () => {
  const payments = ['A', 'B', 'C'].map((endToEndId, n) => ({ endToEndId, blockId: n < 2 ? 'X-1' : 'X-2' }))
  const answer = (over: Partial<BankAnswer>): BankAnswer => ({
    ...{ id: 'S', fileId: 'X', status: '', code: '', text: '', blocks: [], payments: [] },
    ...over,
  })
  test('a file, a block, a payment: each refused once', () => {
    const one = { endToEndId: 'A', status: 'RJCT', code: 'AC04', text: '' }
    expect(refusedBy(answer({ status: 'RJCT', code: 'FF01' }), payments).map(r => r.code)).toEqual([
      'FF01',
      'FF01',
      'FF01',
    ])
    const block = { id: 'X-1', status: 'RJCT', code: 'DT01', text: '' }
    expect(refusedBy(answer({ blocks: [block], payments: [one] }), payments)).toEqual([
      { endToEndId: 'A', code: 'AC04', text: '' },
      { endToEndId: 'B', code: 'DT01', text: '' },
    ])
    expect(refusedBy(answer({ status: 'ACCP' }), payments)).toEqual([])
    expect(strangersIn(answer({ payments: [{ ...one, endToEndId: 'Z' }] }), payments)).toEqual(['Z'])
  })
  test('all codes of checks.md have a name and something that follows', () => {
    for (const code of ['AC01', 'AC04', 'AC06', 'AM04', 'MD01', 'MD06', 'MD07', 'MS02', 'MS03'])
      expect(RETURN_REASONS[code]).toBeDefined()
  })
})
