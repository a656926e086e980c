import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import jsQR from 'jsqr'
import { PNG } from 'pngjs'
import { epcPayload } from '../../../formats/epcQr'
import { LETTER_LANGUAGES } from '../../../server/letters/words'
import { writeSetting } from '../../../server/db/settings'
import { letterAsSent } from '../../../server/services/letters/send'
import {
  copyPdf,
  listRuns,
  printFile,
  queueRun,
  runStatements,
  sendCopy,
  sendStatement,
  statementPdf,
} from '../../../server/services/letters/statements'
import { queueJob, runNextJob } from '../../../server/services/jobs/jobs'
import { sendNext } from '../../../server/services/outbox/outbox'
import { MailRefused, type Mail } from '../../../server/ports/mail'
import { textOfPdf } from '../pdf'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'

const folder = mkdtempSync(join(tmpdir(), 'bilancio-letters-'))
const fileOf = (pdf: Buffer) => {
  const file = join(folder, `${Math.random()}.pdf`)
  writeFileSync(file, pdf)
  return file
}
const numbers = (text: string) => text.replace(/[\s\u00a0\u202f]/g, '')

let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await writeSetting(books.database, 1, 'company', 'Wrackline')
  await writeSetting(books.database, 1, 'house', {
    street: 'Pier 1',
    postcode: 'F91',
    city: 'Sligo',
    country: 'IE',
    vatNumber: 'IE1234567T',
    email: 'money@wrackline.example',
    phone: '',
    bank: 'Bank of the West',
    iban: 'DE89370400440532013000',
    bic: 'COBADEFFXXX',
    logo: '',
  })
  const languages = LETTER_LANGUAGES.map(
    (language, n) => `T${n},Tern ${language},IE,EUR,food,${language},${n % 2 ? '' : `t${n}@tern.example`}`,
  )
  await customers(
    books,
    `number,name,country,currency,class,language,email\n${languages.join('\n')}\nT9,潮の家商店,JP,JPY,food,ja,\n`,
  )
  const bills = LETTER_LANGUAGES.map((_, n) => `T-${n},T${n},2026-09-01,2026-10-01,EUR,1234.56,234.56`)
  await documents(
    books,
    `number,customer,date,due_date,currency,amount,tax
${bills.join('\n')}
T-90,T0,2026-10-20,2026-11-19,EUR,100.00,0
T-91,T9,2026-10-20,2026-11-19,JPY,5400,0
T-92,T0,2026-10-20,2026-11-19,USD,77.00,0
`,
  )
})
afterAll(() => books.close())

// EPC069-12, from memory: the fields in their order, the standard's own form of the amount.
test('the payload of the payment code is that of the standard', () => {
  expect(
    epcPayload({
      name: 'Wrackline',
      iban: 'DE89 3704 0044 0532 0130 00',
      bic: 'COBADEFFXXX',
      amount: 123_456,
      reference: 'RF18539007547034',
    }).split('\n'),
  ).toEqual([
    'BCD',
    '002',
    '1',
    'SCT',
    'COBADEFFXXX',
    'Wrackline',
    'DE89370400440532013000',
    'EUR1234.56',
    '',
    'RF18539007547034',
  ])
  const wrong = [
    { amount: 0 },
    { name: 'x'.repeat(71) },
    { text: 'y'.repeat(141) },
    { text: 'a', reference: 'RF18539007547034' },
  ]
  for (const change of wrong)
    expect(() =>
      epcPayload({ name: 'Wrackline', iban: 'DE89370400440532013000', amount: 1, ...change }),
    ).toThrow(RangeError)
})

test('an open-item statement shows every item, its total and its ages; fonts are embedded', async () => {
  const pdf = await statementPdf(books.database, 'T0', { form: 'open-item' }, {})
  const text = textOfPdf(pdf)
  for (const part of [
    'Statement of account',
    'Invoice T-0',
    'Invoice T-90',
    '46',
    'IBAN DE89 3704',
    'Payment reference',
  ])
    expect(text).toContain(part)
  expect(numbers(text)).toContain('EUR1,334.56')
  expect(numbers(text)).toContain('OfitoverdueEUR1,234.56')
  // Each currency by itself.
  expect(numbers(text)).toContain('TotalUSD77.00')
  const fonts = execFileSync('pdffonts', [fileOf(pdf)])
    .toString()
    .split('\n')
    .slice(2)
    .filter(Boolean)
  expect(fonts.length).toBeGreaterThan(0)
  for (const line of fonts) expect(line).toMatch(/ yes yes (yes|no) +\d+ +0$/)
})

test('the code in the drawn picture reads as what it should hold', async () => {
  const pdf = await statementPdf(books.database, 'T1', { form: 'open-item' }, {})
  execFileSync('pdftoppm', ['-r', '150', '-png', '-singlefile', fileOf(pdf), join(folder, 'page')])
  const { data, width, height } = PNG.sync.read(readFileSync(join(folder, 'page.png')))
  const found = jsQR(new Uint8ClampedArray(data), width, height)
  expect(found!.data.split('\n').slice(0, 8)).toEqual([
    'BCD',
    '002',
    '1',
    'SCT',
    'COBADEFFXXX',
    'Wrackline',
    'DE89370400440532013000',
    'EUR1234.56',
  ])
  expect(found!.data.split('\n')[9]).toMatch(/^RF\d\d/)
})

test.each(LETTER_LANGUAGES.map((language, n) => [language, n] as const))(
  'in %s it says so',
  async (language, n) => {
    const text = textOfPdf(await statementPdf(books.database, `T${n}`, { form: 'open-item' }, {}))
    const title = {
      en: 'Statement of account',
      de: 'Kontoauszug',
      fr: 'Relevé de compte',
      it: 'Estratto conto',
      es: 'Extracto de cuenta',
      no: 'Kontoutskrift',
      ja: '取引残高明細書',
    }[language]
    expect(text).toContain(title)
  },
)

test('Japanese names and yen are printed as they are; no code for what is not euro', async () => {
  const pdf = await statementPdf(books.database, 'T9', { form: 'open-item' }, {})
  const text = textOfPdf(pdf)
  expect(text).toContain('潮の家商店')
  expect(numbers(text)).toMatch(/JPY5,400/)
  execFileSync('pdftoppm', ['-r', '150', '-png', '-singlefile', fileOf(pdf), join(folder, 'yen')])
  const { data, width, height } = PNG.sync.read(readFileSync(join(folder, 'yen.png')))
  // What looks like a code in the strokes of kana holds nothing.
  expect(jsQR(new Uint8ClampedArray(data), width, height)?.data ?? '').toBe('')
})

test('a balance is carried forward: what was, what moved, what is; the same to the cent as what is open', async () => {
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'T2',
      date: '2026-11-10',
      means: [{ means: 'transfer', amount: 100_000 }],
      onAccount: 100_000,
    }),
  )
  const text = numbers(
    textOfPdf(await statementPdf(books.database, 'T2', { form: 'balance-forward', from: '2026-10-31' }, {})),
  )
  expect(text).toContain('Report1234,56EUR')
  expect(text).toMatch(/PaiementR-\d+-1000,00EUR234,56EUR/)
  await expect(
    statementPdf(books.database, 'T2', { form: 'balance-forward', from: TODAY }, {}),
  ).rejects.toThrow('begins on the day it ends')
  await expect(
    statementPdf(books.database, 'T2', { form: 'open-item', asOf: '2027-01-01' }, {}),
  ).rejects.toThrow('tells what was')
})

test('what was sent is kept as it was, and goes by post where no address is known', async () => {
  const sent = await sendStatement(books.database, books.actor, 'T0', { form: 'open-item' }, {})
  expect(sent).toMatchObject({ channel: 'email', recipient: 't0@tern.example' })
  const before = textOfPdf((await letterAsSent(books.database, sent.letter, {})).pdf)
  const [item] = await books.database.select<{ id: number }>(`SELECT id FROM item WHERE number = 'T-0'`)
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'T0',
      date: TODAY,
      means: [{ means: 'transfer', amount: 123_456 }],
      allocations: [{ itemId: item!.id, amount: 123_456 }],
    }),
  )
  expect(textOfPdf((await letterAsSent(books.database, sent.letter, {})).pdf)).toBe(before)
  expect(textOfPdf(await statementPdf(books.database, 'T0', { form: 'open-item' }, {}))).not.toContain(
    'Invoice T-0 ',
  )
  const copy = await sendCopy(books.database, books.actor, item!.id, {})
  expect(copy.channel).toBe('email')
  const text = numbers(textOfPdf(await copyPdf(books.database, item!.id, {})))
  expect(text).toContain('NetEUR1,000.00')
  expect(text).toContain('StillopenEUR0.00')
  await expect(letterAsSent(books.database, sent.letter, { salesId: 77 })).rejects.toThrow('does not exist')
})

test('a run of statements: by mail where an address is known, the rest in one file', async () => {
  await books.database.run(`DELETE FROM outbox`)
  const run = { form: 'open-item' as const, cycle: 'all' }
  const { job } = await queueRun(books.database, books.actor, run, queueJob)
  await runNextJob(books.database)
  const got: string[] = []
  const mail = {
    send: async (m: Mail) => {
      got.push(m.messageId)
      expect(m.attachments[0]!.content.subarray(0, 5).toString()).toBe('%PDF-')
      return '250 ok'
    },
  }
  while (await sendNext(books.database, mail)) continue
  expect(new Set(got).size).toBe(got.length)
  const [of] = (await listRuns(books.database)).items
  expect(of).toMatchObject({ job, letters: 8, sent: 4, waiting: 0, failed: 0, print: 4 })
  const printed = textOfPdf(await printFile(books.database, job))
  for (const name of ['Tern de', 'Tern it', 'Tern no', '潮の家商店']) expect(printed).toContain(name)
  await expect(printFile(books.database, 99_999)).rejects.toThrow('no letter of this run')
})

/** A house with so many customers who owe something and have an address. */
async function many(count: number): Promise<Books> {
  const own = await freshBooks()
  const all = Array.from({ length: count }, (_, n) => n)
  const line = (n: number) => `S${n},Sedge ${n},IE,EUR,food,en,s${n}@sedge.example`
  await customers(own, `number,name,country,currency,class,language,email\n${all.map(line).join('\n')}\n`)
  const bill = (n: number) => `S-${n},S${n},2026-09-01,2026-10-01,EUR,${n + 1}.00`
  await documents(own, `number,customer,date,due_date,currency,amount\n${all.map(bill).join('\n')}\n`)
  return own
}

/** Drawing takes its time: BILANCIO_LONG=1 sends 500. */
const COUNT = process.env.BILANCIO_LONG ? 500 : 150
/** So many are kept when it dies: whole hundreds. */
const KEPT = process.env.BILANCIO_LONG ? 300 : 100

test('a run of statements dies on the way, the day passes, the mail server is slow, away and refuses; each gets one, once', async () => {
  const own = await many(COUNT)
  const { database, actor } = own
  const run = { form: 'open-item' as const, cycle: 'all' }
  const { job } = await queueRun(database, actor, run, queueJob)
  const [kept] = await database.select<{ params: string }>('SELECT params FROM job WHERE id = :job', {
    job,
  })
  const settled = JSON.parse(kept!.params) as typeof run
  let steps = 0
  await expect(
    runStatements(database, actor, settled, job, () =>
      ++steps > KEPT / 100 ? Promise.reject(new Error('killed')) : Promise.resolve(),
    ),
  ).rejects.toThrow('killed')
  const count = async () => {
    const [row] = await database.select<{ n: number; customers: number; days: number }>(
      `SELECT COUNT(*) AS n, COUNT(DISTINCT customer_id) AS customers, COUNT(DISTINCT as_of) AS days
        FROM sent_letter WHERE job_id = :job`,
      { job },
    )
    return { n: Number(row!.n), customers: Number(row!.customers), days: Number(row!.days) }
  }
  expect(await count()).toEqual({ n: KEPT, customers: KEPT, days: 1 })
  // Begun again on the next day, by the job itself.
  await writeSetting(database, 1, 'clock', '2026-11-17')
  await runNextJob(database)
  expect(await count()).toEqual({ n: COUNT, customers: COUNT, days: 1 })
  const accepted: string[] = []
  let tries = 0
  const mail = {
    send: async (m: Mail) => {
      tries++
      if (tries > 100 && tries < 130) throw new Error('connect ECONNREFUSED')
      if (tries % 50 === 0) throw new MailRefused('550 no such mailbox')
      if (tries % 40 === 0) await new Promise(resolve => setTimeout(resolve, 60))
      accepted.push(m.to)
      return '250 ok'
    },
  }
  const sendAll = async () => {
    for (;;) {
      // Two processes send at once.
      const done = await Promise.all([sendNext(database, mail), sendNext(database, mail)])
      if (!done.some(Boolean)) return
    }
  }
  await sendAll()
  await database.run(`UPDATE outbox SET next_try = UTC_TIMESTAMP(3) WHERE state = 'waiting'`)
  await sendAll()
  expect(new Set(accepted).size).toBe(accepted.length)
  const [of] = (await listRuns(database)).items
  expect(of).toMatchObject({ letters: COUNT, sent: accepted.length, waiting: 0 })
  expect(of!.failed).toBe(COUNT - accepted.length)
  expect(of!.failed).toBeGreaterThan(COUNT / 100)
  await own.close()
}, 120_000)
