import { putReceiptRight } from '../post'
import fc from 'fast-check'

import { LedgerRefused } from '../../../server/ledger/command'
import { readLine } from '../../../server/services/banking/lines'
import { listRules } from '../../../server/services/banking/rules'
import { acceptClear } from '../../../server/services/banking/clear'
import { acceptLine, previewLine } from '../../../server/services/banking/accept'
import { previewUndo, undoLine } from '../../../server/services/banking/unmatch'
import { ProblemError } from '../../../server/services/common/problems'
import { listReceipts, readReceipt } from '../../../server/services/receipts/receipts'
import { writeSetting } from '../../../server/db/settings'
import { listRecoverable } from '../../../server/services/impairment/lists'
import { postRecovery } from '../../../server/services/impairment/recovery'
import { postWriteOff } from '../../../server/services/impairment/writeOff'
import { readAccountOpen } from '../open'
import {
  books,
  line,
  take,
  lines,
  accept,
  acceptFirst,
  balance,
  refusal,
  agrees,
  itemId,
  anewAtNothing,
} from './bank'

test('by hand: another customer, part amounts, the rest on account; who paid is learnt', async () => {
  await take([
    line(200_000, { name: 'Aunt Agnes', iban: 'DE89370400440532013000', text: 'for the shop' }),
    line(12_345, { name: 'Aunt Agnes', iban: 'DE89370400440532013000', text: 'more' }),
  ])
  const [first, second] = await lines()
  expect(second!.proposal).toBeNull()
  const action = {
    kind: 'receipt' as const,
    parts: [
      {
        customer: 'K1',
        allocations: [{ itemId: await itemId('26-1'), amount: 100_000 }],
        onAccount: 100_000,
      },
    ],
  }
  expect(
    await refusal(
      accept(first!.id, { action: { ...action, parts: [{ ...action.parts[0]!, onAccount: 1 }] } }),
    ),
  ).toBe('payment.assigned')
  expect(
    await refusal(
      accept(first!.id, {
        action: {
          ...action,
          parts: [
            {
              ...action.parts[0]!,
              allocations: [{ itemId: await itemId('26-1'), amount: 200_000 }],
              onAccount: 0,
            },
          ],
        },
      }),
    ),
  ).toBe('allocation.open')
  const proof = await previewLine(books.database, books.actor, first!.id, {
    version: 1,
    learn: true,
    action: {
      ...action,
      lateDiscount: false,
      parts: [
        {
          ...action.parts[0]!,
          credits: [],
          allocations: [{ ...action.parts[0]!.allocations[0]!, discount: 0, difference: 0 }],
        },
      ],
    },
  })
  expect(proof.lines.map(l => [l.account, l.note, l.amount])).toEqual([
    ['1200', '', 200_000],
    ['1100', '', -100_000],
    ['1100', 'on account', -100_000],
  ])
  const done = await accept(first!.id, { action })
  expect(done).toMatchObject({ state: 'settled', match: { receipts: [{ customer: { number: 'K1' } }] } })
  // Learnt: the second line of the same payer now has a proposal.
  expect((await lines())[0]).toMatchObject({
    proposal: {
      customer: { number: 'K1' },
      reasons: [expect.stringMatching(/paid for Hollin & Sedge before/), expect.anything()],
    },
  })
  expect((await listRules(books.database)).payers).toMatchObject([
    { iban: 'DE89370400440532013000', customer: { number: 'K1' } },
  ])
  expect(await readReceipt(books.database, done.match!.receipts[0]!.id)).toMatchObject({
    state: 'settled',
    unallocated: 100_000,
    bankLines: [{ direct: true }],
  })
  await agrees()
})

test('unmatching brings back the items, the credits and the line; what was learnt is forgotten', async () => {
  const before = await readAccountOpen(books.database)
  await take([line(110_990, { iban: 'NO9386011117947', name: 'Hollin & Sedge', text: '26-1' })])
  const [l] = await lines('all')
  if (l!.state === 'open') await acceptFirst(l!.id)
  const settled = await readLine(books.database, l!.id)
  expect(settled.state).toBe('settled')
  const proof = await previewUndo(books.database, books.actor, l!.id, 'wrong')
  expect(proof.ok).toBe(true)
  const open = await undoLine(books.database, books.actor, l!.id, {
    version: settled.version,
    reason: 'wrong customer',
  })
  expect(open).toMatchObject({
    state: 'open',
    held: 'unmatched by hand',
    history: [{ undone: { reason: 'wrong customer' } }],
  })
  expect(await readAccountOpen(books.database)).toEqual(before)
  expect(await balance('1200')).toBe(0)
  expect((await listRules(books.database)).payers).toEqual([])
  expect(
    await refusal(undoLine(books.database, books.actor, l!.id, { version: open.version, reason: 'again' })),
  ).toBe('bank.matched')
  // What somebody unmatched is not taken again with the clear ones.
  expect(await acceptClear(books.database, books.actor)).toEqual({ applied: 0, held: 0 })
  expect((await lines())[0]).toMatchObject({ clear: false, held: 'unmatched by hand' })
  await agrees()
})

test('two people on one line: one is told, nothing is posted twice', async () => {
  await take([line(55_555, { name: 'Stranger' })])
  const [l] = await lines()
  const body = {
    version: l!.version,
    learn: true,
    action: { kind: 'ledger' as const, account: '4900', words: '', rememberPayer: false },
  }
  const results = await Promise.allSettled(
    Array.from({ length: 6 }, () => acceptLine(books.database, books.actor, l!.id, body)),
  )
  expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
  expect(
    results.filter(r => r.status === 'rejected').map(r => (r.reason as LedgerRefused).refusals[0]!.rule),
  ).toEqual(Array(results.length - 1).fill('bank.done'))
  expect(await balance('4900')).toBe(-55_555)
  await agrees()
})

test('a repeated key answers again and posts once', async () => {
  await take([line(55_555, { name: 'Stranger' })])
  const [l] = await lines()
  const body = {
    version: l!.version,
    learn: true,
    action: { kind: 'ledger' as const, account: '4900', words: '', rememberPayer: false },
  }
  const key = { key: 'k1', request: { id: l!.id } }
  await acceptLine(books.database, books.actor, l!.id, body, key)
  expect(await acceptLine(books.database, books.actor, l!.id, body, key)).toMatchObject({ state: 'settled' })
  expect(await balance('4900')).toBe(-55_555)
})

test('sundry money: remembered by its words and by its bank account', async () => {
  await take([
    line(9638, { name: 'BALLYNORE CARTONS', iban: 'IE12ZZZZ99000011112222', text: 'REFUND INV 322' }),
  ])
  await accept((await lines())[0]!.id, {
    action: { kind: 'ledger', account: '4900', words: '', rememberPayer: true },
  })
  expect(
    await take([line(777, { name: 'BALLYNORE', iban: 'IE12ZZZZ99000011112222', text: 'REFUND INV 401' })]),
  ).toMatchObject({ applied: 1 })
  expect(
    await refusal(
      (async () => {
        await take([line(5)])
        await accept((await lines())[0]!.id, { action: { kind: 'ledger', account: '1100' } })
      })(),
    ),
  ).toBe('account.kept')
  await agrees()
})

test('a receipt of a bank line moved to the right customer keeps its bank line', async () => {
  await take([line(121_040, { text: '26-1' })])
  const [receipt] = (await listReceipts(books.database, { state: 'all', limit: 10 })).items
  const moved = await putReceiptRight(books.database, books.actor, receipt!.id, {
    reason: 'paid by K3',
    customer: 'K3',
  })
  expect(await readReceipt(books.database, moved.receipt!.id)).toMatchObject({
    customer: { number: 'K3' },
    state: 'settled',
    unallocated: 121_040,
    bankLines: [{ direct: true }],
    was: { number: receipt!.number },
  })
  expect(await readReceipt(books.database, receipt!.id)).toMatchObject({
    state: 'reversed',
    became: { number: moved.receipt!.number },
  })
  expect(await balance('1200')).toBe(121_040)
  const [l] = await lines('settled')
  await undoLine(books.database, books.actor, l!.id, { version: l!.version, reason: 'after all not' })
  expect(await balance('1200')).toBe(0)
  await agrees()
})

test(
  'random statements, acceptances and corrections: undoing everything brings all back, and the books ' +
    'agree at every step',
  async () => {
    const before = await readAccountOpen(books.database)
    const step = fc.record({
      what: fc.constantFrom('first', 'account', 'ledger', 'undo', 'move'),
      pick: fc.nat(),
    })
    const money = fc.record({
      amount: fc.constantFrom(121_040, 912_000, 110_990, 60_000, 4711),
      text: fc.constantFrom('26-1', '26-2', 'no reference', '26-1 26-2'),
    })
    await fc.assert(
      fc.asyncProperty(
        fc.array(money, { minLength: 1, maxLength: 3 }),
        fc.array(step, { minLength: 1, maxLength: 6 }),
        async (list, steps) => {
          anewAtNothing()
          await take(list.map(m => line(m.amount, { text: m.text, iban: 'IE29AIBK93115212345678' })))
          const quiet = (work: Promise<unknown>) =>
            work.catch((error: unknown) => {
              if (!(error instanceof LedgerRefused) && !(error instanceof ProblemError)) throw error
            })
          const undo = async (id: number) =>
            undoLine(books.database, books.actor, id, {
              version: (await readLine(books.database, id)).version,
              reason: 'back',
            })
          for (const s of steps) {
            const open = await lines()
            const done = await lines('settled')
            const o = open[s.pick % Math.max(1, open.length)]
            const d = done[s.pick % Math.max(1, done.length)]
            if (s.what === 'undo') {
              if (d) await quiet(undo(d.id))
            } else if (s.what === 'move') {
              const r = d?.match?.receipts[0]
              if (r)
                await quiet(
                  putReceiptRight(books.database, books.actor, r.id, { reason: 'moved', customer: 'K3' }),
                )
            } else if (o)
              await quiet(
                s.what === 'first'
                  ? acceptFirst(o.id)
                  : accept(o.id, {
                      action:
                        s.what === 'ledger'
                          ? { kind: 'ledger', account: '4900' }
                          : { kind: 'receipt', parts: [{ customer: 'K1', onAccount: o.amount }] },
                    }),
              )
          }
          await agrees()
          for (const l of await lines('settled')) await undo(l.id)
          expect(await readAccountOpen(books.database)).toEqual(before)
          expect(await balance('1200')).toBe(0)
          // The lines leave the stage, so that the next run begins anew.
          for (const table of ['bank_match_target', 'bank_match', 'bank_line'])
            await books.database.run(`DELETE FROM ${table}`)
          await books.database.run(`DELETE FROM bank_statement`)
        },
      ),
      { numRuns: 12 },
    )
    await agrees()
  },
)

test('money for what was written off is told so, put on account and taken as recovered', async () => {
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 1_000_000 } })
  const writeOffs = [{ itemId: await itemId('26-1'), amount: 121_040 }]
  await postWriteOff(books.database, books.actor, {
    items: writeOffs,
    reason: 'uncollectable',
    text: 'gone away',
    commission: 'kept',
    against: 'expense',
  })
  await take([line(60_000, { name: 'Hollin & Sedge', iban: 'IE29AIBK93115212345678', text: 'half of 26-1' })])
  const [open] = await lines()
  expect(open!.proposal!.action).toMatchObject({ parts: [{ customer: 'K1', onAccount: 60_000 }] })
  expect(open!.proposal!.reasons.join(' ')).toMatch(/26-1 was written off on .* by W-00001.*comes back/)
  const body = { version: open!.version, proposed: true, action: open!.proposal!.action }
  const { warnings } = await previewLine(books.database, books.actor, open!.id, body)
  expect(warnings).toEqual([
    expect.stringMatching(/26-1 of Hollin & Sedge was written off, 1210.40 EUR not come back yet/),
  ])
  await acceptFirst(open!.id)
  const [found] = await listRecoverable(books.database, { customer: 'K1' })
  expect(found).toMatchObject({ credit: { open: 60_000 }, writeOffs: [{ of: '26-1', left: 121_040 }] })
  await postRecovery(books.database, books.actor, {
    creditItemId: found!.credit.id,
    parts: [{ writeOffId: found!.writeOffs[0]!.id, amount: 60_000 }],
  })
  expect(await listRecoverable(books.database, { customer: 'K1' })).toEqual([])
  await agrees()
})
