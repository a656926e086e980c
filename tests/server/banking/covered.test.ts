import { intents, postIntent, receiveSundry, voidSundry } from '../post'
import { sundryBody } from '../../../contract/receipts'

import { writeSetting } from '../../../server/db/settings'
import { readLine } from '../../../server/services/banking/lines'
import { acceptClear } from '../../../server/services/banking/clear'
import { undoLine } from '../../../server/services/banking/unmatch'
import { listCovered } from '../../../server/services/banking/world'
import { readTray } from '../../../server/services/banking/slips'
import { takeToBank, voidSlipById } from '../../../server/services/banking/paying'
import { readReceipt } from '../../../server/services/receipts/receipts'
import { TODAY } from '../database'
import { books, line, take, lines, accept, balance, refusal, agrees } from './bank'

describe('covered and settled', () => {
  const receive = async (
    means: 'cheque' | 'transfer' | 'cash',
    amount: number,
    reference = '',
    customer = 'K1',
  ) =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          customer,
          currency: 'EUR',
          date: TODAY,
          means: [{ means, amount, reference }],
          onAccount: amount,
        }),
      )
    ).receipt!.id
  const on = { bookingDate: TODAY, valueDate: TODAY }
  test('a transfer keyed before is met, a slip opens into its cheques; clearing is empty then', async () => {
    const transfer = await receive('transfer', 30_000, 'adv 9')
    const cheque = await receive('cheque', 50_000, '004417')
    await receive('cash', 20_000)
    expect([
      (await readReceipt(books.database, transfer)).state,
      (await readReceipt(books.database, cheque)).state,
    ]).toEqual(['covered', 'tray'])
    const slip = await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 5000,
    })
    expect((await listCovered(books.database, {})).totals).toEqual([
      { currency: 'EUR', amount: 95_000, count: 2 },
    ])
    const result = await take(
      [
        line(30_000, { ...on, iban: 'IE29AIBK93115212345678' }),
        line(65_000, { ...on, text: `LODGEMENT ${slip.number}`, code: 'PMNT-CNTR-CDPT' }),
      ],
      { from: TODAY, to: TODAY },
    )
    expect(result).toMatchObject({ applied: 2 })
    expect([await balance('1220'), await balance('1200')]).toEqual([0, 95_000])
    expect(
      await refusal(voidSlipById(books.database, books.actor, slip.id, { date: TODAY, reason: 'x' })),
    ).toBe('slip.settled')
    expect([
      (await readReceipt(books.database, transfer)).state,
      (await readReceipt(books.database, cheque)).state,
    ]).toEqual(['settled', 'settled'])
    await agrees()
  })
  test('card money less the bank’s commission', async () => {
    const first = await receive('transfer', 30_000)
    await receive('transfer', 20_000)
    await take([line(49_400, { ...on, text: 'CARD SETTLEMENT' })], { from: TODAY, to: TODAY })
    const [l] = await lines()
    const targets = (await listCovered(books.database, {})).items.map(i => ({ kind: i.kind, id: i.id }))
    expect(await refusal(accept(l!.id, { action: { kind: 'covered', targets } }))).toBe('bank.rest')
    await accept(l!.id, { action: { kind: 'covered', targets, restAccount: '6850' } })
    expect(await balance('6850')).toBe(600)
    // Unmatched, both wait in clearing again.
    const settled = await readLine(books.database, l!.id)
    await undoLine(books.database, books.actor, l!.id, { version: settled.version, reason: 'another day' })
    expect([
      await balance('1220'),
      await balance('6850'),
      (await readReceipt(books.database, first)).state,
    ]).toEqual([50_000, 0, 'covered'])
    await agrees()
  })
  test('two lines cannot settle the same money', async () => {
    await receive('transfer', 30_000, 'ADV-77')
    await take([line(30_000, { ...on, text: 'ADV-77' }), line(30_000, { ...on, text: 'again ADV-77' })], {
      from: TODAY,
      to: TODAY,
    })
    expect(await lines('settled')).toHaveLength(1)
    const [left] = await lines()
    const [settled] = await lines('settled')
    const targets = [
      {
        kind: 'means' as const,
        id: Number((await books.database.select('SELECT id FROM receipt_means'))[0]!.id),
      },
    ]
    expect(await refusal(accept(left!.id, { action: { kind: 'covered', targets } }))).toBe('bank.settled')
    expect(settled!.match!.told).toContain('R-000001')
    await agrees()
  })
  test('the bank sends more back than it had: what it keeps for itself is our expense', async () => {
    const a = await receive('transfer', 50_000, 'TX-1')
    await take([line(50_000, { ...on, text: 'TX-1' })], { from: TODAY, to: TODAY })
    const { number } = await readReceipt(books.database, a)
    await take([line(-50_350, { ...on, text: `RETURN ${number}`, returnReason: 'AC04' })], {
      ...{ from: TODAY, to: TODAY },
    })
    const [l] = await lines()
    expect(l!.proposal).toMatchObject({ action: { kind: 'return', itemId: a, charge: 350 } })
    const back = (charge: number) =>
      accept(l!.id, { action: { kind: 'return', itemId: a, reason: 'Returned, AC04', fee: 0, charge } })
    expect(await refusal(back(0))).toBe('bank.return')
    await back(350)
    expect(await readReceipt(books.database, a)).toMatchObject({ state: 'reversed' })
    expect([await balance('1220'), await balance('1200'), await balance('6850')]).toEqual([0, -350, 350])
    await agrees()
  })
  test('a cheque comes back: reversed from the bank with a fee, or met when it was reversed before', async () => {
    const a = await receive('cheque', 50_000, '005059')
    const b = await receive('cheque', 60_000, '005060')
    await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 0,
    })
    await take([line(110_000, { ...on, text: 'LODGEMENT P-00001' })], { from: TODAY, to: TODAY })
    await postIntent(
      books.database,
      books.actor,
      await intents.reverse(books.database, b, { date: TODAY, reason: 'told by phone' }),
    )
    expect(await balance('1220')).toBe(-60_000)
    expect(
      await take(
        [
          line(-60_000, { ...on, text: 'UNPAID CHEQUE 005060', returnReason: 'AM04' }),
          line(-50_000, { ...on, text: 'UNPAID CHEQUE 005059', returnReason: 'AM04' }),
        ],
        { from: TODAY, to: TODAY },
      ),
    ).toMatchObject({ applied: 1, left: 1 })
    const [l] = await lines()
    expect(l).toMatchObject({ asks: true, clear: false, proposal: { action: { kind: 'return', itemId: a } } })
    await accept(l!.id, { action: { kind: 'return', itemId: a, reason: 'Returned, AM04', fee: 1500 } })
    expect(await readReceipt(books.database, a)).toMatchObject({
      state: 'reversed',
      reversal: { reason: 'Returned, AM04' },
    })
    expect([await balance('1220'), await balance('1200'), await balance('4820')]).toEqual([0, 0, -1500])
    expect(
      await refusal(
        (async () =>
          undoLine(books.database, books.actor, l!.id, {
            version: (await readLine(books.database, l!.id)).version,
            reason: 'x',
          }))(),
      ),
    ).toBe('bank.return')
    await agrees()
  })
})

describe('sundry money that is not at the bank yet', () => {
  const receive = (over: object = {}) =>
    receiveSundry(
      books.database,
      books.actor,
      sundryBody.parse({
        date: TODAY,
        currency: 'EUR',
        amount: 30_000,
        means: 'cheque',
        reference: '771',
        payer: 'Fire Insurer',
        account: '4900',
        ...over,
      }),
    )
  test('a cheque lies in the Tray, goes on a slip, and is settled with it', async () => {
    const one = await receive()
    expect(one).toMatchObject({ number: 'S-00001', voided: false, accountName: 'Sundry income' })
    expect((await readTray(books.database, { search: 'Fire' })).items).toMatchObject([
      { receipt: 'S-00001', customer: { number: '', name: 'Fire Insurer' }, amount: 30_000 },
    ])
    const slip = await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 0,
    })
    expect(slip.means).toMatchObject([{ receipt: 'S-00001' }])
    expect(await refusal(voidSundry(books.database, books.actor, one.id, 'x'))).toBe('sundry.away')
    expect(
      await take([line(30_000, { bookingDate: TODAY, valueDate: TODAY, text: 'LODGEMENT P-00001' })], {
        from: TODAY,
        to: TODAY,
      }),
    ).toMatchObject({ applied: 1 })
    expect([
      await balance('1210'),
      await balance('1220'),
      await balance('1200'),
      await balance('4900'),
    ]).toEqual([0, 0, 30_000, -30_000])
    await agrees()
  })
  test(
    'a transfer waits in clearing for its bank line; taken back once, never to an account with its own ' +
      'register',
    async () => {
      const one = await receive({ means: 'transfer' })
      expect((await listCovered(books.database, {})).items).toMatchObject([
        { label: 'S-00001', amount: 30_000 },
      ])
      expect(await voidSundry(books.database, books.actor, one.id, 'keyed twice')).toMatchObject({
        voided: true,
      })
      expect(await refusal(voidSundry(books.database, books.actor, one.id, 'again'))).toBe('sundry.once')
      expect((await listCovered(books.database, {})).items).toEqual([])
      expect(await refusal(receive({ account: '1100' }))).toBe('account.kept')
      expect(await refusal(receive({ account: '7777' }))).toBe('account.known')
      expect(await balance('4900')).toBe(0)
      await agrees()
    },
  )
})

describe('clear lines', () => {
  test('with automatic off they wait for a word; one that cannot be posted is held and says why', async () => {
    await writeSetting(books.database, 1, 'matching', { automatic: false, wrongCosts: 40 })
    await take(
      [
        line(121_040, { text: '26-1' }),
        line(912_000, { text: '26-2', bookingDate: '2026-10-28', valueDate: '2026-10-28' }),
      ],
      { from: '2026-10-28' },
    )
    await writeSetting(books.database, 1, 'closedUntil', '2026-10-31')
    expect(await acceptClear(books.database, books.actor)).toEqual({ applied: 1, held: 1 })
    expect((await lines())[0]!.held).toMatch(/closed up to 2026-10-31/)
    await agrees()
  })
})
