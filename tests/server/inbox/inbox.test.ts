import { mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { simpleParser } from 'mailparser'
import { itemsQuery } from '../../../contract/accounts'
import { inbox as operations } from '../../../contract/inbox'
import { messages as messageOperations } from '../../../contract/messages'
import { maildir } from '../../../server/ports/mailIn'
import { readItems } from '../../../server/services/accounts/items'
import { readTimeline } from '../../../server/services/accounts/timeline'
import {
  addAttachment,
  readAttachment,
  removeAttachment,
} from '../../../server/services/attachments/attachments'
import { actOnMail, assignMail, listMail, readInboxMail } from '../../../server/services/inbox/inbox'
import { takeMail } from '../../../server/services/inbox/take'
import { sendStatement } from '../../../server/services/letters/statements'
import {
  answerMessage,
  handOver,
  listMessages,
  markDone,
  markRead,
  unreadOf,
  writeMessage,
} from '../../../server/services/messages/messages'
import { answerLetters } from '../../../simulators/answers'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
const folder = mkdtempSync(join(tmpdir(), 'bilancio-maildir-'))
const mail = maildir(folder)
let sent = 0
/** A mail arrives, as a server delivers it. */
function arrives(headers: Record<string, string>, body: string): void {
  mkdirSync(join(folder, 'new'), { recursive: true })
  const head = Object.entries({ 'Message-ID': `<m${++sent}@x.example>`, ...headers }).map(
    ([k, v]) => `${k}: ${v}`,
  )
  writeFileSync(join(folder, 'new', String(sent).padStart(4, '0')), `${head.join('\r\n')}\r\n\r\n${body}\r\n`)
}
const sales = { id: 2, name: 'Sal', email: 'sal@example.org', role: 'sales' as const }
const con = { id: 3, name: 'Con', email: 'c@example.org', role: 'controller' as const }

beforeAll(async () => {
  books = await freshBooks()
  await books.database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES ('sal@example.org', 'Sal', 'sales', 'x'),
      ('c@example.org', 'Con', 'controller', 'x')`,
  )
  await customers(
    books,
    `number,name,country,currency,class,email,sales,controller
M1,Marram,IE,EUR,food,money@marram.example,sal@example.org,c@example.org
M2,Mallow,IE,EUR,food,ap@mallow.example,,c@example.org
M3,Mallow North,IE,EUR,food,north@mallow.example,,
`,
  )
  await documents(
    books,
    `number,customer,date,due_date,currency,amount
M-100,M1,2026-09-01,2026-10-01,EUR,1000.00
M-101,M1,2026-09-05,2026-10-05,EUR,250.00
M-200,M2,2026-09-01,2026-10-01,EUR,400.00
`,
  )
})
afterAll(() => books.close())

const list = (state: 'new' | 'all' = 'new') =>
  listMail(books.database, operations.list.query!.parse({ state }), {})
const read = (id: number) => readInboxMail(books.database, id, {})
const newest = async () => read((await list('all')).items[0]!.id)
const item = async (customer: string, number: string) =>
  (await readItems(books.database, customer, itemsQuery.parse({ state: 'all' }), {})).items.find(
    i => i.number === number,
  )!

test('an answer belongs to the account whose letter it answers, whoever it comes from', async () => {
  const { message } = await sendStatement(books.database, books.actor, 'M1', { form: 'open-item' }, {})
  const [letter] = await books.database.select<{ id: string }>(
    'SELECT message_id AS id FROM outbox WHERE id = :message',
    { message },
  )
  arrives(
    {
      From: 'Somebody <else@where.example>',
      To: 'us',
      Subject: 'Re: Statement',
      'In-Reply-To': `<${letter!.id}>`,
    },
    'We pay EUR 1,000.00 for M-100 on 20 November.',
  )
  expect(await takeMail(books.database, mail)).toBe(1)
  expect(readdirSync(join(folder, 'new'))).toEqual([])
  const found = await newest()
  expect(found).toMatchObject({
    kind: 'promise',
    customer: { number: 'M1' },
    foundBy: 'reply',
    found: { date: '2026-11-20', amount: 100_000, items: [{ number: 'M-100', open: 100_000 }] },
  })
  await actOnMail(
    books.database,
    books.actor,
    found.id,
    {
      do: 'promise',
      currency: 'EUR',
      items: [{ itemId: found.found.items[0]!.id, amount: 100_000 }],
      date: '2026-11-20',
      amount: 100_000,
    },
    {},
  )
  expect((await item('M1', 'M-100')).promise).toMatchObject({ date: '2026-11-20' })
  await expect(actOnMail(books.database, con, found.id, { do: 'read' }, {})).rejects.toThrow(
    'answered meanwhile',
  )
})

test('by address, by a number that it names, by domain; two of a domain are nobody’s, and nothing is guessed', async () => {
  arrives({ From: 'ap@mallow.example', Subject: 'hello' }, 'Nothing said.')
  arrives({ From: 'boss@gmail.com', Subject: 'question' }, 'What is M-200?')
  arrives({ From: 'new@marram.example', Subject: 'hello' }, 'A new colleague.')
  arrives({ From: 'new@mallow.example', Subject: 'hello' }, 'One of two.')
  arrives({ From: 'x@nowhere.example', Subject: 'hello' }, 'Nobody.')
  await takeMail(books.database, mail)
  const { items } = await list()
  expect(
    items
      .slice(0, 5)
      .reverse()
      .map(m => [m.customer?.number ?? null, m.foundBy]),
  ).toEqual([
    ['M2', 'address'],
    ['M2', 'number'],
    ['M1', 'domain'],
    [null, ''],
    [null, ''],
  ])
  const [last] = items
  await expect(actOnMail(books.database, books.actor, last!.id, { do: 'statement' }, {})).rejects.toThrow(
    'whose mail',
  )
  expect(await assignMail(books.database, books.actor, last!.id, 'M2', {})).toMatchObject({ foundBy: 'hand' })
})

test('what is refused gives the mail back; the dispute of a mail takes its amount out', async () => {
  arrives({ From: 'money@marram.example', Subject: 'M-101' }, 'M-101 came damaged, EUR 100.00 of it.')
  await takeMail(books.database, mail)
  const { id, found, kind } = await newest()
  expect([kind, found.reason, found.amount]).toEqual(['dispute', 'quality', 10_000])
  const act = (amount: number) =>
    actOnMail(
      books.database,
      books.actor,
      id,
      { do: 'dispute', reason: 'quality', items: [{ itemId: found.items[0]!.id, amount }] },
      {},
    )
  await expect(act(99_999_999)).rejects.toThrow('are open')
  expect((await read(id)).state).toBe('new')
  expect((await act(10_000)).doneAs).toBe('dispute opened')
  expect((await item('M1', 'M-101')).dispute).toMatchObject({ amount: 10_000 })
})

test('hostile HTML arrives as words; a mail of ours that comes round is none; the same twice is once', async () => {
  const before = (await list('all')).items.length
  arrives(
    { From: 'ap@mallow.example', Subject: '<b>x</b>', 'Content-Type': 'text/html', 'Message-ID': '<same@x>' },
    `<p>Pay later</p><script>alert(1)</script><img src=x onerror=alert(2)><a href="javascript:alert(3)">link</a>`,
  )
  arrives({ From: 'ap@mallow.example', Subject: 'again', 'Message-ID': '<same@x>' }, 'the same')
  arrives({ From: 'receivables@bilancio.example', Subject: 'loop' }, 'it is us')
  expect(await takeMail(books.database, mail)).toBe(3)
  const { items } = await list('all')
  expect(items.length).toBe(before + 1)
  const { text } = await newest()
  expect(text).toContain('Pay later')
  expect(text).not.toMatch(/<script|onerror|<img|<a /i)
})

test('a report of delivery is a bounce of the letter it names; an address can be corrected', async () => {
  const { message } = await sendStatement(books.database, books.actor, 'M2', { form: 'open-item' }, {})
  const [letter] = await books.database.select<{ id: string; to: string }>(
    'SELECT message_id AS id, recipient AS `to` FROM outbox WHERE id = :message',
    { message },
  )
  // Till one bounces: the stand-in draws by the message.
  const answered = await answerLetters(folder, TODAY, [])
  expect(answered).toBe(0)
  const boundary = 'b1'
  const bounces = () =>
    arrives(
      {
        'Message-ID': '<bounce-1@mx.example>',
        From: 'MAILER-DAEMON@mx.example',
        Subject: 'Undelivered',
        'Auto-Submitted': 'auto-replied',
        'MIME-Version': '1.0',
        'Content-Type': `multipart/report; report-type=delivery-status; boundary="${boundary}"`,
      },
      [
        `--${boundary}`,
        'Content-Type: text/plain',
        '',
        'could not be delivered',
        `--${boundary}`,
        'Content-Type: message/delivery-status',
        '',
        'Reporting-MTA: dns; mx.example',
        '',
        `Final-Recipient: rfc822; ${letter!.to}`,
        'Action: failed',
        'Status: 5.1.1',
        '',
        `--${boundary}`,
        'Content-Type: text/rfc822-headers',
        '',
        `Message-ID: <${letter!.id}>`,
        '',
        `--${boundary}--`,
      ].join('\r\n'),
    )
  bounces()
  await takeMail(books.database, mail)
  const found = await newest()
  expect(found).toMatchObject({
    kind: 'bounce',
    customer: { number: 'M2' },
    foundBy: 'reply',
    found: { address: 'ap@mallow.example' },
  })
  await actOnMail(
    books.database,
    books.actor,
    found.id,
    { do: 'address', email: 'payables@mallow.example' },
    {},
  )
  const [now] = await books.database.select(`SELECT email FROM customer WHERE number = 'M2'`)
  expect(now).toEqual({ email: 'payables@mallow.example' })
  // The same report once more, after its task is done: no mail and no task of its own.
  const tasks = async () =>
    books.database.select<{ id: number }>(`SELECT id FROM message WHERE text LIKE 'A letter to%'`)
  const [task] = await tasks()
  await books.database.run('UPDATE message SET done_at = UTC_TIMESTAMP(3) WHERE id = :id', { id: task!.id })
  bounces()
  expect(await takeMail(books.database, mail)).toBe(1)
  expect(await tasks()).toHaveLength(1)
  await books.database.run('UPDATE message SET done_at = NULL WHERE id = :id', { id: task!.id })
})

test('what the simulated customers write is mail that an independent reader reads, and comes once', async () => {
  const letters = Array.from({ length: 120 }, (_, n) => ({
    messageId: `letter${n}@bilancio`,
    subject: 'Reminder',
    to: `ap${n}@firm${n}.example`,
    from: 'us@wrackline.example',
    contact: 'Ms Sorrel',
    customer: `Firm ${n}`,
    language: n % 3 ? 'en' : 'de',
    items: [{ number: `26-${1000 + n}`, open: 123_456, currency: 'EUR' }],
  }))
  const own = mkdtempSync(join(tmpdir(), 'bilancio-answers-'))
  const count = await answerLetters(own, TODAY, letters)
  expect(count).toBeGreaterThan(25)
  expect(count).toBeLessThan(90)
  await answerLetters(own, TODAY, letters)
  const waiting = (await maildir(own).waiting())!
  expect(waiting).toHaveLength(count)
  for (const name of waiting) {
    const parsed = await simpleParser((await maildir(own).read(name))!)
    expect(parsed.from!.text).not.toBe('')
    expect(parsed.messageId).toMatch(/^<.+@.+>$/)
    expect(parsed.text!.length).toBeGreaterThan(10)
  }
})

test('messages: read, answered, done; the sales contact only of their own; unread is counted', async () => {
  const write = (ask: object, actor = books.actor, scope = {}) =>
    writeMessage(
      books.database,
      actor,
      messageOperations.write.body!.parse({ customer: 'M1', text: 'Look at this', ...ask }) as never,
      scope,
    )
  await expect(write({ customer: 'M2', to: sales.email })).rejects.toThrow('does not exist')
  await expect(write({ to: 'nobody@example.org' })).rejects.toThrow('nobody here')
  await expect(write({ to: con.email, due: '2026-11-01' })).rejects.toThrow('is over')
  await expect(write({ to: con.email, about: 'item', aboutId: 99_999 })).rejects.toThrow('does not exist')
  const { id } = await write({
    to: sales.email,
    about: 'item',
    aboutId: (await item('M1', 'M-101')).id,
    due: '2026-11-20',
  })
  expect(await unreadOf(books.database, sales, { salesId: 2 })).toMatchObject({ messages: 1, tasks: 1 })
  const own = { salesId: sales.id }
  const [seen] = (await listMessages(books.database, sales, messageOperations.list.query!.parse({}), own))
    .items
  expect(seen).toMatchObject({ id, unread: true, link: { label: 'M-101' }, due: '2026-11-20' })
  await markRead(books.database, sales, id, own)
  await answerMessage(books.database, sales, id, 'Credit it, I promised', own)
  await expect(markDone(books.database, con, id, true, {})).rejects.toThrow('by whom it is for')
  await markDone(books.database, sales, id, true, own)
  expect(await unreadOf(books.database, books.actor, {})).toMatchObject({ messages: 1 })
  const [mine] = (
    await listMessages(books.database, books.actor, messageOperations.list.query!.parse({}), {})
  ).items
  expect(mine).toMatchObject({
    unread: true,
    done: { by: 'Sal' },
    answers: [{ text: 'Credit it, I promised' }],
  })
})

test('who leaves hands over all that waits for them', async () => {
  const { id } = await writeMessage(
    books.database,
    books.actor,
    messageOperations.write.body!.parse({ customer: 'M1', to: con.email, text: 'please ring' }) as never,
    {},
  )
  // What colleagues write each other is not for the sales contact, though the customer is theirs.
  const own = { salesId: sales.id }
  await expect(answerMessage(books.database, sales, id, 'may I', own)).rejects.toThrow('does not exist')
  const seen = await listMessages(
    books.database,
    sales,
    messageOperations.list.query!.parse({ box: 'all', customer: 'M1' }),
    own,
  )
  expect(seen.items.map(m => m.text)).not.toContain('please ring')
  const moved = await handOver(books.database, books.actor, { from: con.email, to: 's@example.org' })
  // Of the two one is the task that a letter came back.
  expect(moved).toEqual({ messages: 2, disputes: 0, accounts: 2 })
  const tasks = await books.database.select<{ text: string; due: string }>(
    `SELECT text, due FROM message WHERE text LIKE 'A letter to%'`,
  )
  expect(tasks).toEqual([{ text: expect.stringContaining('came back: correct the address'), due: TODAY }])
  expect(await unreadOf(books.database, con, {})).toMatchObject({ messages: 0 })
  await expect(handOver(books.database, books.actor, { from: con.email, to: con.email })).rejects.toThrow(
    'oneself',
  )
})

test('files: by what they are, not by what they are called; kept whole, served as they were', async () => {
  const pdf = Buffer.concat([Buffer.from('%PDF-1.4\n'), Buffer.alloc(2000, 32)])
  const add = (name: string, bytes: Buffer) =>
    addAttachment(books.database, books.actor, 'M1', { name, text: '', bytes }, {})
  await expect(add('page.pdf', Buffer.from('<html><script>alert(1)</script></html>'))).rejects.toThrow(
    'none of the kinds',
  )
  await expect(add('tool.exe', Buffer.concat([Buffer.from('MZ'), Buffer.alloc(500)]))).rejects.toThrow(
    'none of the kinds',
  )
  await expect(add('big.pdf', Buffer.concat([pdf, Buffer.alloc(30 * 1024 * 1024)]))).rejects.toThrow(
    'at most 10 MB',
  )
  await expect(add('empty.pdf', Buffer.alloc(0))).rejects.toThrow('empty')
  const file = await add('../../etc/pass\nwd', pdf)
  expect(file).toMatchObject({ type: 'application/pdf', name: '.._.._etc_pass_wd' })
  const served = await readAttachment(books.database, file.id, {})
  expect(served.bytes.equals(pdf)).toBe(true)
  expect(served.name).toMatch(/\.pdf$/)
  await expect(readAttachment(books.database, file.id, { salesId: 77 })).rejects.toThrow('does not exist')
  await expect(removeAttachment(books.database, sales, file.id, {})).rejects.toThrow('put this file there')
  await removeAttachment(books.database, books.actor, file.id, {})
  await expect(readAttachment(books.database, file.id, {})).rejects.toThrow('does not exist')
})

test('the time line has all of it, page by page, by kind, and is searched', async () => {
  const read = (q: object = {}) => readTimeline(books.database, 'M1', { limit: 100, ...q }, {})
  const all = await read()
  const kinds = new Set(all.items.map(e => e.kind))
  for (const kind of ['letter', 'mail', 'promise', 'dispute', 'message'] as const)
    expect(kinds).toContain(kind)
  const pages = []
  for (let cursor: string | undefined; ;) {
    const page = await read({ limit: 2, cursor })
    pages.push(...page.items)
    if (page.next === null) break
    cursor = page.next
  }
  expect(pages).toEqual(all.items)
  expect((await read({ kind: 'dispute' })).items.every(e => e.kind === 'dispute')).toBe(true)
  expect((await read({ search: 'Look at this' })).items.map(e => e.kind)).toEqual(['message'])
  // A sales contact reads what is theirs: not the trail, not what colleagues write each other.
  const theirs = await readTimeline(books.database, 'M1', { limit: 100 }, { salesId: sales.id })
  const words = theirs.items.filter(e => e.kind === 'message').map(e => e.text)
  expect(words).toContain('Look at this')
  expect(words).not.toContain('please ring')
  expect(theirs.items.some(e => e.kind === 'change')).toBe(false)
})
