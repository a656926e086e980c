import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import jsQR from 'jsqr'
import { PNG } from 'pngjs'
import { LETTER_LANGUAGES } from '../../../server/letters/words'
import { interestText, reminderWordsOf } from '../../../server/letters/reminderWords'
import { reminderSheet, remindersPdf, type ReminderLetter } from '../../../server/letters/reminder'
import { sheetPdf } from '../../../server/letters/sheet'
import { textOfPdf } from '../pdf'

const folder = mkdtempSync(join(tmpdir(), 'bilancio-reminder-'))
const written = (pdf: Buffer) => {
  const file = join(folder, `${Math.random()}.pdf`)
  writeFileSync(file, pdf)
  return file
}

const item = (n: number, over = {}) => ({
  id: n,
  number: `26-${1000 + n}`,
  part: 1,
  dueDate: '2026-05-31',
  daysLate: 76,
  open: 100_000,
  level: 2,
  before: 1,
  ...over,
})
const letter = (over: Partial<ReminderLetter> = {}, notice: object = {}): ReminderLetter => ({
  company: 'Wrackline',
  house: {
    street: '3 Kelp Quay',
    postcode: 'X91 K220',
    city: 'Carrowbeg',
    country: 'IE',
    vatNumber: 'IE0000000W',
    email: '',
    phone: '',
    bank: 'Bank of Carrow',
    iban: 'IE29AIBK93115212345678',
    bic: 'AIBKIE2D',
    logo: '',
  },
  customer: {
    name: 'Hollin & Sedge',
    number: 'K1',
    contact: 'Maud Ferrow',
    street: '4 Ferry Lane',
    postcode: '20095',
    city: 'Hamburg',
    country: 'DE',
  },
  reference: 'RF18539007547034',
  language: 'en',
  number: 'N-00007',
  date: '2026-08-15',
  text: { subject: 'Second reminder', body: 'Dear Maud Ferrow,\n\nPlease pay.\n\nKind regards\nWrackline' },
  notice: {
    key: 'K1 EUR',
    customer: { number: 'K1', name: 'Hollin & Sedge' },
    currency: 'EUR',
    policy: 'standard',
    level: 2,
    total: 100_000,
    fee: 1500,
    feeTax: 0,
    interest: 2144,
    deadline: '2026-08-25',
    channel: 'email',
    recipient: 'maud@hollin.example',
    why: '',
    items: [item(1)],
    interestLines: [
      {
        itemId: 1,
        number: '26-1001',
        from: '2026-06-01',
        to: '2026-06-30',
        days: 30,
        rate: '10',
        base: 100_000,
        amount: 822,
      },
      {
        itemId: 1,
        number: '26-1001',
        from: '2026-07-01',
        to: '2026-08-15',
        days: 46,
        rate: '10.5',
        base: 100_000,
        amount: 1322,
      },
    ],
    consequence: { hold: false, tellSales: false, handOver: false },
    warnings: [],
    changed: [],
    ...notice,
  },
  strata: [0, 0, 0, 100_000, 0],
  bucketLabels: ['not due', '1–30', '31–60', '61–90', 'over 90'],
  ...over,
})

test('interest stands line by line, each with from, to, days, rate, base and amount; fee and total below', async () => {
  const text = textOfPdf(await remindersPdf([letter()])).replace(/ +/g, ' ')
  for (const line of [
    '26-1001 1 Jun 2026 30 Jun 2026 30 10 % EUR 1,000.00 EUR 8.22',
    '26-1001 1 Jul 2026 15 Aug 2026 46 10.5 % EUR 1,000.00 EUR 13.22',
    '26-1001 31 May 2026 76 EUR 1,000.00',
    'Reminder fee 15 Aug 2026 EUR 15.00',
    'Late interest 15 Aug 2026 EUR 21.44',
    'Total to pay 25 Aug 2026 EUR 1,036.44',
    'N-00007, Page 1 / 1',
  ])
    expect(text).toContain(line)
})

test('the payment code in the drawn page asks for all that is claimed', async () => {
  const file = written(await remindersPdf([letter()]))
  execFileSync('pdftoppm', ['-r', '150', '-png', '-singlefile', file, join(folder, 'code')])
  const { data, width, height } = PNG.sync.read(readFileSync(join(folder, 'code.png')))
  const read = jsQR(new Uint8ClampedArray(data), width, height)
  expect(read?.data.split('\n').slice(5)).toEqual([
    'Wrackline',
    'IE29AIBK93115212345678',
    'EUR1036.44',
    '',
    'RF18539007547034',
  ])
})

/** Where words stand on the first page, in millimetres from its left and top edges, by poppler. */
function places(pdf: Buffer): { word: string; left: number; top: number; right: number; bottom: number }[] {
  const html = execFileSync('pdftotext', ['-bbox', '-l', '1', '-', '-'], { input: pdf, encoding: 'utf8' })
  const mm = (text: string) => (Number(text) * 25.4) / 72
  return [...html.matchAll(/xMin="([\d.]+)" yMin="([\d.]+)" xMax="([\d.]+)" yMax="([\d.]+)">([^<]*)</g)].map(
    ([, left, top, right, bottom, word]) => ({
      word: word!,
      left: mm(left!),
      top: mm(top!),
      right: mm(right!),
      bottom: mm(bottom!),
    }),
  )
}

// DIN 5008, form B (from memory): 85 × 45 mm, 20 mm from the left edge and 45 mm from the top.
test('the recipient stands whole in the window of the envelope, and nothing else does', async () => {
  const words = places(await remindersPdf([letter()]))
  const inside = words.filter(w => w.right > 20 && w.left < 105 && w.bottom > 45 && w.top < 90)
  for (const w of inside) {
    expect(w.left).toBeGreaterThanOrEqual(20)
    expect(w.right).toBeLessThanOrEqual(105)
    expect(w.top).toBeGreaterThanOrEqual(45)
    expect(w.bottom).toBeLessThanOrEqual(90)
  }
  const text = inside.map(w => w.word).join(' ')
  expect(text).toBe(
    'Wrackline · 3 Kelp Quay · X91 K220 Carrowbeg Hollin &amp; Sedge Maud Ferrow 4 Ferry Lane 20095 Hamburg GERMANY',
  )
})

test('a French house has its window at the right; the facts stand at the left then', async () => {
  const { house } = letter()
  const words = places(await remindersPdf([letter({ house: { ...house!, country: 'FR' } })]))
  const hamburg = words.find(w => w.word === 'Hamburg')!
  expect(hamburg.left).toBeGreaterThan(110)
  expect(hamburg.right).toBeLessThan(195)
  expect(words.find(w => w.word === 'N-00007')!.right).toBeLessThan(110)
})

test('many items go over pages that are counted, each letter by itself in the print file', async () => {
  const items = Array.from({ length: 120 }, (_, n) => item(n))
  const pdf = await remindersPdf([letter({}, { items }), letter({ number: 'N-00008' })])
  const text = textOfPdf(pdf)
  expect(text).toContain('N-00007, Page 1 / 4')
  expect(text).toContain('N-00007, Page 4 / 4')
  expect(text).toContain('N-00008, Page 1 / 1')
  for (const i of items) expect(text).toContain(i.number)
})

test.each(LETTER_LANGUAGES.map(l => [l]))('an interest note in %s', async language => {
  const note = letter({ language, text: interestText[language]! }, { level: 0, fee: 0, items: [] })
  const own = reminderWordsOf(language)
  const text = textOfPdf(await remindersPdf([note]))
  for (const word of [own.interestNote, own.interest, own.toPay]) expect(text).toContain(word)
})

test('a letter of before interest was claimed is drawn as it was', async () => {
  const { interest: _, interestLines: __, ...notice } = letter().notice
  const text = textOfPdf(await sheetPdf([reminderSheet({ ...letter(), notice })])).replace(/ +/g, ' ')
  expect(text).toContain('Total to pay 25 Aug 2026 EUR 1,015.00')
})
