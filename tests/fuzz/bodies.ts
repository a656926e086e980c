import { addBankWorkingDays } from '../../core/calendar'

/** The beginning of a PDF is enough to be taken for one. */
const PDF = '%PDF-1.4\n%fuzz\n'

/**
 * Bodies that are right in the small world of these tests: K1 has the items 1 to 8, K2 9 to 16, K3 17
 * to 24, the first of each open with 100.00. What they make has small numbers too, so they meet each other.
 */
export function rightBodies(today: string): Record<string, unknown[]> {
  const collectOn = addBankWorkingDays(today, 3)
  const cash = (customer: string, amount: number) => ({
    customer,
    date: today,
    means: [{ means: 'cash', amount, reference: '' }],
    onAccount: amount,
  })
  const cheque = {
    customer: 'K1',
    date: today,
    means: [{ means: 'cheque', amount: 1000, reference: '100200' }],
    allocations: [{ itemId: 8, amount: 1000 }],
  }
  const receipts = [cash('K1', 500), cash('K2', 700), cheque]
  const ticked = {
    date: today,
    currency: 'EUR',
    means: 'transfer',
    mode: 'customer',
    parts: [{ customer: 'K2', allocations: [{ itemId: 16, amount: 500 }], credits: [], onAccount: 0 }],
  }
  const sundry = {
    date: today,
    currency: 'EUR',
    amount: 1200,
    means: 'transfer',
    payer: 'An insurer',
    account: '6850',
  }
  const pair = { customer: 'K1', date: today, pairs: [{ debitItemId: 7, creditItemId: 25, amount: 100 }] }
  const undo = { customer: 'K1', date: today, allocationIds: [1], reason: 'wrong item' }
  const reverse = { date: today, reason: 'keyed twice', kind: 'error' }
  const batch = { currency: 'EUR', date: today, text: 'cheques', controlTotal: 1000 }
  const accept = { version: 1, action: { kind: 'ledger', account: '6850', words: '', rememberPayer: false } }
  const refunds = [
    { refunds: [{ customer: 'K1', method: 'cash', credits: [{ itemId: 25, amount: 100 }] }] },
    { refunds: [{ customer: 'K2', method: 'cheque', credits: [{ itemId: 26, amount: 200 }] }] },
  ]
  const writeOffs = [
    { items: [{ itemId: 3 }], reason: 'small', text: 'small', commission: 'kept' },
    {
      ...{ items: [{ itemId: 4, amount: 100 }], reason: 'insolvency', text: 'gone' },
      ...{ against: 'allowance', commission: 'taken-back' },
    },
  ]
  const planned = {
    name: 'Wages',
    kind: 'wages',
    currency: 'EUR',
    amount: 100_000,
    from: today,
    every: 'month',
  }
  const facility = {
    ...{ name: 'Tern Finance', recourse: true, disclosed: false, currencies: ['EUR'] },
    ...{ advanceRate: 8000, commissionRate: 150, taxRate: 2000, interestRate: 600, eligible: {} },
    accounts: { current: '1310', commission: '6911', interest: '6931', tax: '2210' },
  }
  const csv = (rows: string) => `number,kind,customer,date,amount\n${rows}\n`
  const ofClass = {
    ...{ name: 'Fuzz', terms: 'net 30', method: 'transfer', policy: 'standard', riskClass: 'B' },
    ...{ statementCycle: 'none', refunds: 'yes', keepOnItem: false },
  }
  return {
    'post /api/receipts': receipts,
    'post /api/receipts/preview': receipts,
    'post /api/receipts/{id}/reverse': [reverse],
    'post /api/receipts/{id}/reverse/preview': [reverse],
    'post /api/receipts/{id}/put-right': [{ customer: 'K3', reason: 'wrong customer' }],
    'post /api/receipts/{id}/put-right/preview': [{ date: today, reason: 'wrong day' }],
    'post /api/receipts/ticked': [ticked],
    'post /api/receipts/ticked/preview': [ticked],
    'post /api/receipts/sundry': [sundry],
    'post /api/receipts/sundry/preview': [sundry],
    'post /api/receipts/sundry/{id}/void': [{ date: today, reason: 'theirs' }],
    'post /api/allocations': [pair],
    'post /api/allocations/preview': [pair],
    'post /api/allocations/undo': [undo],
    'post /api/allocations/undo/preview': [undo],
    'post /api/receipts/batches': [batch],
    'put /api/receipts/batches/{id}': [batch],
    'post /api/receipts/batches/{id}/receipts': receipts,
    'put /api/receipts/batches/{id}/receipts/{receipt}': [{ ...cash('K1', 900), version: 1 }],
    'post /api/receipts/batches/{id}/close': [{ version: 1 }, { version: 2 }, { version: 3 }],
    'post /api/banking/slips': [
      { date: today, means: [1] },
      { date: today, means: [2, 3] },
    ],
    'post /api/banking/slips/preview': [{ date: today, means: [1] }],
    'post /api/banking/slips/{id}/void': [{ date: today, reason: 'not taken' }],
    'post /api/banking/lines/{id}/accept': [accept],
    'post /api/banking/lines/{id}/preview': [accept],
    'post /api/banking/lines/{id}/undo': [{ version: 1, reason: 'wrong' }],
    'post /api/banking/rules': [{ iban: '', words: 'CHARGES', account: '6850', moneyIn: false }],
    'post /api/banking/accounts': [
      { name: 'Second', iban: 'IE29AIBK93115212345678', currency: 'EUR', account: '1205', csvMap: null },
    ],
    'post /api/accounts/{number}/notes': [{ text: 'rang, no answer' }],
    'post /api/reminders/runs': [
      { asOf: today, policy: 'standard' },
      { asOf: today, kind: 'interest' },
    ],
    'post /api/reminders/runs/{id}/confirm': [{ version: 1 }],
    'put /api/reminders/runs/{id}/edits': [{ version: 1, key: 'K1 EUR', edit: { noFee: true } }],
    'post /api/reminders/runs/{id}/withdraw': [{ reason: 'by mistake' }],
    'post /api/reminders/runs/{id}/withdraw/proof': [{}],
    'post /api/reminders/goodwill': [{ itemId: 1, amount: 1, reason: 'fuzz' }],
    'post /api/reminders/goodwill/proof': [{ itemId: 1, amount: 1 }],
    'put /api/reminders/rates': [{ code: 'ECB', from: today, percent: '2' }],
    'post /api/reminders/claims/{number}': [{ itemIds: [1] }],
    'post /api/reminders/claims/{number}/proof': [{ itemIds: [1] }],
    'post /api/reminders/handovers': [
      { customer: 'K1', agency: 'Grey', reason: 'late' },
      { customer: 'K2', agency: 'Grey', reason: 'late' },
    ],
    'post /api/reminders/handovers/{id}/end': [{ why: 'paid' }],
    'post /api/reminders/handovers/{id}/costs': [{ on: today, currency: 'EUR', amount: 100, text: 'letter' }],
    'post /api/reminders/pauses': [{ customer: 'K1', reason: 'promised', until: today }],
    'put /api/settings': [{ company: 'World' }, { bounds: [30, 60, 90] }, { closedUntil: null }],
    'put /api/rates': [{ currency: 'GBP', date: today, rate: '1.15' }],
    'post /api/rates/import': [`date,currency,rate\n${today},USD,0.9\n`],
    'post /api/documents/imports/documents': [csv(`F-1,invoice,K1,${today},5.00`), csv(`F-2,,K2,${today},7`)],
    'post /api/documents/imports/customers': ['number,name,country\nF1,Fuzz,IE\n'],
    'post /api/banking/csv-map': [`Date;Text;Amount\n${today};K1-1;1.00\n`],
    'post /api/banking/statements': [`Date;Text;Amount\n${today};CHARGES;-1.00\n${today};K1-3;300.00\n`],
    'post /api/documents/imports/orders': [`number,customer,date,amount\nF-O1,K1,${today},9.00\n`],
    'post /api/exposure/orders': [
      { orders: [{ number: 'O-1', customer: 'K1', date: today, currency: 'EUR', amount: 900 }] },
    ],
    'post /api/exposure/check': [{ customer: 'K1', currency: 'EUR', amount: 5000 }],
    'post /api/exposure/holds': [
      { customer: 'K1', reason: 'waits' },
      { customer: 'K2', reason: 'waits too' },
    ],
    'post /api/exposure/holds/release': [
      { customer: 'K1', cause: 'hand', reason: 'paid', until: null },
      { customer: 'K2', cause: 'hand', reason: 'paid', until: today },
    ],
    'post /api/views': [
      { screen: 'aging', name: 'Fuzz', shared: true, state: { by: 'class' } },
      { screen: 'accounts', name: 'Fuzz', state: { sort: '-open', hidden: ['class'] } },
    ],
    'post /api/accounts': [
      { number: 'N1', values: { name: 'New', country: 'IE', creditLimit: 5000 } },
      { number: 'N2', values: { name: 'Newer', country: 'GB' } },
    ],
    'put /api/accounts/{number}': [
      { version: 1, set: { city: 'Cork' } },
      { version: 1, set: { creditLimit: 70_000 }, reason: 'grows' },
      { version: 1, set: {} },
      { version: 2, set: {} },
    ],
    'post /api/accounts/{number}/close': [{ version: 1, closed: false }],
    'post /api/accounts/{number}/merge': [{ into: 'K2', reason: 'the same' }],
    'post /api/classes': [{ ...ofClass, code: 'standard' }],
    'put /api/classes/{code}': [1, 2, 3].map(version => ({ ...ofClass, version, creditLimit: null })),
    'post /api/promises': [
      { customer: 'K1', currency: 'EUR', parts: [{ date: today, amount: 100 }] },
      {
        customer: 'K2',
        currency: 'EUR',
        items: [{ itemId: 12, amount: 50 }],
        parts: [{ date: today, amount: 50 }],
      },
    ],
    'post /api/promises/{id}/withdraw': [{ reason: 'agreed anew' }],
    'post /api/disputes': [
      { customer: 'K1', reason: 'price', items: [{ itemId: 5, amount: 10 }] },
      { customer: 'K2', reason: 'other', items: [{ itemId: 13, amount: 5 }] },
      { customer: 'K3', reason: 'quality', items: [{ itemId: 20, amount: 7 }] },
    ],
    'put /api/disputes/{id}': [1, 2].map(version => ({
      ...{ version, reason: 'price', fault: 'us', text: 'looked at', owner: 'cash@world.example' },
      deadline: today,
    })),
    'post /api/disputes/{id}/resolve': [1, 2].map(version => ({
      version,
      resolution: 'upheld',
      letter: false,
    })),
    'post /api/disputes/{id}/proof': [1, 2].map(version => ({ version, resolution: 'written-off' })),
    'post /api/call-list/calls': [
      { customer: 'K1', outcome: 'not-reached', nextDate: today },
      { customer: 'K3', outcome: 'reached', text: 'friendly' },
    ],
    'post /api/letters/statements/{number}/send': [{ form: 'open-item' }],
    'post /api/letters/copies/{id}/send': [{}],
    'post /api/promises/{id}/send': [{}],
    'post /api/letters/runs': [{ form: 'open-item', cycle: 'all' }],
    'post /api/messages': [{ customer: 'K1', to: 'cash@world.example', text: 'look', due: today }],
    'post /api/messages/{id}/answers': [{ text: 'looked' }],
    'post /api/messages/{id}/read': [{}],
    'post /api/messages/{id}/done': [{ done: true }],
    'post /api/messages/hand-over': [{ from: 'sales@world.example', to: 'cash@world.example' }],
    'put /api/accounts/{number}/notes/{id}': [{ pinned: true }],
    'put /api/inbox/{id}/customer': [{ customer: 'K1' }],
    'post /api/inbox/{id}/act': [{ action: { do: 'read' } }],
    'post /api/accounts/{number}/attachments': [PDF],
    'post /api/sign-off/{id}/comments': [{ text: 'why so much?' }],
    'post /api/sign-off/{id}/decline': [{ reason: 'no' }],
    'post /api/sign-off/{id}/send-back': [{ reason: 'half' }],
    'post /api/sign-off/{id}/ask-again': [{ set: {} }],
    'post /api/sign-off/deputies': [{ deputy: 'cash@world.example', from: today, until: today }],
    'post /api/refunds': refunds,
    'post /api/refunds/proof': refunds,
    'post /api/refunds/{id}/undo': [{ reason: 'by mistake' }],
    'post /api/refunds/{id}/cheque': [{}, { number: '77' }],
    'post /api/refunds/cheques/{id}/void': [{ reason: 'lost' }],
    'post /api/refunds/lapse': [{ itemIds: [25], to: 'income', reason: 'small' }],
    'post /api/refunds/lapse/proof': [{ itemIds: [25], to: 'owed', reason: 'small' }],
    'post /api/refunds/unclaimed/letters': [{ itemIds: [25] }],
    'post /api/refunds/files': [{ currency: 'EUR' }],
    'post /api/refunds/cards': [{}],
    'post /api/impairment/write-offs': writeOffs,
    'post /api/impairment/write-offs/proof': writeOffs,
    'post /api/impairment/write-offs/{id}/undo': [{ reason: 'found again' }],
    'post /api/impairment/relief': [{}],
    'post /api/impairment/recoveries': [{ creditItemId: 25, parts: [{ writeOffId: 26, amount: 100 }] }],
    'post /api/impairment/recoveries/proof': [{ creditItemId: 25, parts: [{ writeOffId: 26, amount: 100 }] }],
    'put /api/factoring/facilities/{code}': [facility],
    'post /api/forecast/payments': [planned],
    'put /api/forecast/payments/{id}': [planned],
    'post /api/forecast/payments/import': [{ csv: `name,date,amount\nWages,${today},1000.00\n` }],
    'post /api/forecast/what-if': [
      { query: {}, whatIf: { customers: [{ customer: 'K1', days: 30 }] } },
      { query: { weeks: 4 }, whatIf: { rates: [{ currency: 'NOK', perCent: -10 }] } },
    ],
    'post /api/forecast/what-if/part': [{ query: { week: 1, source: 'items' }, whatIf: { campaign: true } }],
    'post /api/forecast/what-ifs': [{ name: 'Later', whatIf: { customers: [{ customer: 'K1', days: 9 }] } }],
    'post /api/forecast/share': [{ to: ['board@kelp.example'], note: 'For Monday', query: { weeks: 4 } }],
    'post /api/factoring/schedules': [5, 6, 7].map(itemId => ({
      facility: 'TERN',
      currency: 'EUR',
      itemIds: [itemId],
    })),
    'post /api/factoring/schedules/{id}/take-back': [{ reason: 'by mistake' }],
    'post /api/factoring/answers': [
      {
        facility: 'TERN',
        name: 'a.csv',
        csv: `kind,schedule,invoice,date,currency,amount\naccepted,FS-00001,K1-4,${today},EUR,`,
      },
    ],
    'post /api/factoring/inbox': [{}],
    'post /api/factoring/close/short': [{ facility: 'TERN', creditItemId: 25, itemId: 26 }],
    'post /api/factoring/close/short/proof': [{ facility: 'TERN', creditItemId: 25, itemId: 26 }],
    'post /api/factoring/close/pass-on': [{ facility: 'TERN', creditItemId: 25, amount: 100 }],
    'post /api/factoring/close/pass-on/{id}/undo': [{ reason: 'not the factor’s' }],
    'post /api/factoring/close/pass-on/proof': [{ facility: 'TERN', creditItemId: 25, amount: 100 }],
    'post /api/impairment/allowance': [
      { date: today },
      { date: today, factor: 11_000, reason: 'a hard winter' },
    ],
    'post /api/impairment/allowance/proof': [{ date: today }],
    'post /api/impairment/allowance/runs/{id}/undo': [{ reason: 'wrong rates' }],
    'post /api/impairment/cases': [{ customer: 'K1', kind: 'dispute', rate: 5000, text: 'sued' }],
    'post /api/impairment/claims': [
      { customer: 'K1', administrator: 'Quill & Reed', address: '1 Quay St, Cork', openedOn: today },
    ],
    'post /api/impairment/cases/{id}/end': [{ reason: 'settled' }],
    'post /api/payments/files/{id}/send': [{}],
    'post /api/payments/files/{id}/take-back': [{ reason: 'lost' }],
    'post /api/mandates': [
      { customer: 'K1', iban: 'IE29AIBK93115212345678', signedOn: today },
      { customer: 'K2', iban: 'DE89370400440532013000', signedOn: today, scheme: 'B2B', most: 5000 },
    ],
    'put /api/mandates/{id}': [{ version: 1, iban: 'IE64IRCE92050112345678', signedOn: today }],
    'post /api/mandates/{id}/state': [{ version: 1, state: 'suspended', reason: 'asked' }],
    'post /api/mandates/import': [`customer,signed_on,iban\nK3,${today},IE29AIBK93115212345678\n`],
    'post /api/collections/runs': [{ collectOn }, { collectOn, scheme: 'CORE' }],
    'put /api/collections/runs/{id}': [{ version: 1, customer: 'K1', leaveOut: 'asked' }],
    'post /api/collections/runs/{id}/confirm': [{ version: 1 }],
    'post /api/collections/runs/{id}/discard': [{ version: 1, reason: 'no' }],
    'post /api/collections/runs/{id}/files': [{}],
    'post /api/collections/{id}/drop': [{ reason: 'asked' }],
    'post /api/collections/{id}/return': [{ code: 'AM04' }],
    'post /api/collections/{id}/return/proof': [{ code: 'MD06', fee: 100 }],
    'post /api/collections/{id}/work': [{ action: 'chase' }],
    'post /api/receipts/advice': ['number,amount\nK1-1,100.00\n'],
  }
}
