import { ImapFlow } from 'imapflow'
import { inbox as operations } from '../../../contract/inbox'
import { imapMail, imapOptions } from '../../../server/ports/imap'
import { portKeeper } from '../../../server/services/common/portFault'
import { listMail } from '../../../server/services/inbox/inbox'
import { takeMail } from '../../../server/services/inbox/take'
import { customers, CUSTOMERS, freshBooks, type Books } from '../database'
import { imapServer, type ImapServer } from './dovecot'

let books: Books
let server: ImapServer
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  server = await imapServer()
}, 60_000)
afterAll(async () => {
  await server.stop()
  await books.close()
})

let sent = 0
function arrives(text: string, headers = ''): void {
  const id = ++sent
  server.deliver(
    `${1_700_000_000 + id}.M${id}.house`,
    `Message-ID: <imap-${id}@x.example>\r\nFrom: who@x.example\r\nSubject: mail ${id}\r\n${headers}\r\n${text}\r\n`,
  )
}
const list = async () =>
  listMail(books.database, operations.list.query!.parse({ state: 'all', limit: 50 }), {})
const subjects = async () => (await list()).items.map(m => m.subject).sort()

/** Somebody reads the mailbox with another program. */
async function another(work: (client: ImapFlow) => Promise<unknown>): Promise<void> {
  const { folder, ...options } = imapOptions({ url: server.plain })
  const client = new ImapFlow(options)
  await client.connect()
  await client.mailboxOpen(folder)
  await work(client)
  await client.logout()
}

test('mail of a mailbox is taken once, stays there, and reading it elsewhere hides nothing', async () => {
  const mailbox = imapMail({ url: server.plain }, 0)
  arrives('We pay on 20 November.')
  arrives('Dear all,\r\nwhere is the copy?')
  await another(client => client.messageFlagsAdd('1:*', ['\\Seen'], { uid: true }))
  expect(await takeMail(books.database, mailbox)).toBe(2)
  expect(await takeMail(books.database, mailbox)).toBe(0)
  expect(await subjects()).toEqual(['mail 1', 'mail 2'])
  let there = 0
  await another(async client => {
    there = client.mailbox === false ? 0 : client.mailbox.exists
  })
  expect(there).toBe(2)
  await mailbox.close()
})

test('a server that goes away in the middle: nothing is lost, nothing comes twice', async () => {
  const mailbox = imapMail({ url: server.plain }, 0)
  for (let n = 0; n < 4; n++) arrives(`mail of the outage ${n}`)
  let read = 0
  const cutOff = {
    ...mailbox,
    read: async (name: string) => {
      // Kept, but its mark never reached the server.
      if (++read === 3) await server.stop()
      return mailbox.read(name)
    },
  }
  await expect(takeMail(books.database, cutOff)).rejects.toThrow()
  // It waits before it asks again; a new connection would be refused.
  expect(await takeMail(books.database, mailbox)).toBeNull()
  await expect(takeMail(books.database, imapMail({ url: server.plain }, 0))).rejects.toThrow('ECONNREFUSED')
  await server.start()
  const again = imapMail({ url: server.plain }, 0)
  expect(await takeMail(books.database, again)).toBe(2)
  expect(await subjects()).toEqual(['mail 1', 'mail 2', 'mail 3', 'mail 4', 'mail 5', 'mail 6'])
  await again.close()
})

test('one whose mark was lost is taken up again, and is one mail still', async () => {
  const mailbox = imapMail({ url: server.plain }, 0)
  arrives('marked too late')
  const noMark = { ...mailbox, taken: () => Promise.reject(new Error('connection lost')) }
  await expect(takeMail(books.database, noMark)).rejects.toThrow('connection lost')
  expect(await takeMail(books.database, mailbox)).toBe(1)
  expect((await subjects()).filter(s => s === 'mail 7')).toHaveLength(1)
  await mailbox.close()
})

// RFC 8314 section 3: TLS with the certificate verified.
test('TLS is verified: a certificate that nobody vouches for is refused', async () => {
  arrives('by TLS')
  await expect(imapMail({ url: server.tls }, 0).waiting()).rejects.toThrow(/certificate/i)
  const trusted = imapMail({ url: server.tls, ca: server.ca }, 0)
  expect(await takeMail(books.database, trusted)).toBe(1)
  await trusted.close()
  expect(imapOptions({ url: 'imap://u:p@mail.example.org' })).toMatchObject({
    port: 143,
    secure: false,
    doSTARTTLS: true,
    tls: { rejectUnauthorized: true },
  })
})

test('a wrong password is told where the mail is waited for, with since when, and goes when it works', async () => {
  const wrong = imapMail({ url: server.plain.replace('secret', 'guess') }, 0)
  const note = portKeeper(books.database, 'mail in')
  const fault: Error = await wrong.waiting().then(
    () => new Error('no fault'),
    (error: Error) => error,
  )
  await note(fault.message)
  const told = (await list()).unreachable
  expect(told?.says).not.toContain('guess')
  expect(told?.since).toMatch(/^\d{4}-\d\d-\d\dT/)
  // Not asked again at once: a server would lock the account.
  expect(await wrong.waiting()).toBeNull()
  await note(null)
  expect((await list()).unreachable).toBeNull()
})

test('a mailbox of before brings its last month, fifty at a look', async () => {
  const mailbox = imapMail({ url: server.plain }, 0)
  for (let n = 0; n < 60; n++) arrives(`one of sixty, ${n}`)
  expect(await takeMail(books.database, mailbox)).toBe(50)
  expect(await takeMail(books.database, mailbox)).toBe(10)
  await mailbox.close()
})
