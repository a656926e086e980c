import { pauseAfter, SIGN_IN_LIMITS } from '../../../core/people/signIn'
import type { Access } from '../../../server/db/settings'
import { callerOf, isOurHost, networkOf } from '../../../server/services/people/network'
import {
  addPerson,
  changeOwnPassword,
  changePerson,
  findActor,
  signOutPerson,
} from '../../../server/services/people/people'
import {
  endOwnSession,
  endSession,
  findSession,
  listSessions,
  openSession,
  tidySessions,
} from '../../../server/services/people/sessions'
import { signIn } from '../../../server/services/people/signIn'
import { openDatabase } from '../../../server/db/connection'
import { freshBooks, type Books } from '../database'

let books: Books
beforeAll(async () => {
  books = await freshBooks()
})
afterAll(() => books.close())

const status = (work: Promise<unknown>) =>
  work.then(
    () => 'accepted',
    (e: { status?: number }) => e.status,
  )
const PASSWORD = 'three kelp words'
const ACCESS: Access = { idleMinutes: 60, absoluteHours: 12, hosts: [], proxies: [] }
const HOME = { network: '10.0.0.1', agent: 'a browser' }
let made = 0
async function somebody(role: 'cash' | 'administrator' = 'cash') {
  const email = `p${++made}@example.org`
  const { id } = await addPerson(books.database, 1, { name: 'Pia', email, role, password: PASSWORD })
  return { id, email, actor: (await findActor(books.database, id))! }
}
const tryIn = (email: string, password: string, network: string, at?: string) =>
  status(signIn(books.database, email, password, network, at))
const wrong = (email: string, network: string, times: number, at?: string) =>
  Promise.all(Array.from({ length: times }, () => tryIn(email, 'wrong', network, at)))

describe('sign-in', () => {
  test('right, wrong, unknown, closed', async () => {
    const { id, email } = await somebody()
    expect(await signIn(books.database, email.toUpperCase(), PASSWORD, '1.1.1.1')).toMatchObject({
      actor: { id, role: 'cash' },
      mustChange: true,
    })
    expect(await tryIn(email, 'wrong', '1.1.1.1')).toBe(401)
    expect(await tryIn('nobody@example.org', 'wrong', '1.1.1.1')).toBe(401)
    await changePerson(books.database, books.actor, id, { active: false })
    expect(await tryIn(email, PASSWORD, '1.1.1.1')).toBe(401)
    expect(await findActor(books.database, id)).toBeUndefined()
  })
  test('eighty at once count as eighty: five are looked at, and the next waits', async () => {
    const { email } = await somebody()
    // One moment for all of them, however long a busy machine takes.
    const at = new Date().toISOString().replace('T', ' ').replace('Z', '')
    const answers = await wrong(email, '2.2.2.2', 80, at)
    expect(answers.filter(a => a === 401)).toHaveLength(SIGN_IN_LIMITS.pair.free)
    expect(answers.filter(a => a === 429)).toHaveLength(80 - SIGN_IN_LIMITS.pair.free)
    const [{ most }] = (await books.database.select('SELECT MAX(tries) AS most FROM sign_in_count')) as [
      { most: number },
    ]
    expect(most).toBe(80)
    expect(await tryIn(email, PASSWORD, '2.2.2.2', at)).toBe(429)
  })
  test('the owner elsewhere is let in meanwhile, and so is a colleague known in that network', async () => {
    const [attacked, colleague] = [await somebody(), await somebody()]
    expect(await tryIn(attacked.email, PASSWORD, '3.3.3.3')).toBe('accepted')
    expect(await tryIn(colleague.email, PASSWORD, '4.4.4.4')).toBe('accepted')
    // More than the name may have from everywhere, and more than the network may have for all names.
    for (let i = 0; i < 6; i++) await wrong(attacked.email, `9.9.9.${i}`, 5)
    for (let i = 0; i < 12; i++) await wrong(`guess${i}@example.org`, '4.4.4.4', 5)
    await new Promise(resolve => setTimeout(resolve, 1200))
    for (const email of [attacked.email, 'guess@example.org'])
      await tryIn(email, 'wrong', email === attacked.email ? '9.9.9.66' : '4.4.4.4')
    expect(await tryIn(attacked.email, PASSWORD, '9.9.9.77')).toBe(429)
    expect(await tryIn(attacked.email, PASSWORD, '3.3.3.3')).toBe('accepted')
    expect(await tryIn('fresh@example.org', 'wrong', '4.4.4.4')).toBe(429)
    expect(await tryIn(colleague.email, PASSWORD, '4.4.4.4')).toBe('accepted')
  })
  test('sixty colleagues behind one address sign in rightly, one after another', async () => {
    const { email } = await somebody()
    for (let i = 0; i < 60; i++) expect(await tryIn(email, PASSWORD, '5.5.5.5')).toBe('accepted')
  })
  test('the pause doubles, up to its longest', () => {
    const limit = { free: 5, longest: 900 }
    expect([0, 4, 5, 6, 9, 14, 15, 80].map(n => pauseAfter(n, limit))).toEqual([
      0, 0, 1, 2, 16, 512, 900, 900,
    ])
  })
})

describe('passwords', () => {
  test.each(['1234567890', 'aaaaaaaaaaaa', 'password123', 'pia@example.org', 'ü'.repeat(40)])(
    '%s is refused',
    async password => {
      const body = { name: 'Pia', email: 'pia@example.org', role: 'cash' as const, password }
      expect(await status(addPerson(books.database, 1, body))).toBe(422)
    },
  )
  test('kept as bcrypt; the same e-mail is taken once', async () => {
    const { id, email } = await somebody()
    const [row] = await books.database.select<{ h: string }>(
      `SELECT password_hash AS h FROM person WHERE id = ${id}`,
    )
    expect(row!.h).toMatch(/^\$2[aby]\$10\$/)
    const again = addPerson(books.database, 1, { name: 'P', email, role: 'cash', password: PASSWORD })
    expect(await status(again)).toBe(409)
  })
  test('one’s own: the current one is asked, another must be chosen, all sessions end', async () => {
    const { email, actor } = await somebody()
    const token = await openSession(books.database, actor.id, HOME)
    expect((await findSession(books.database, token, ACCESS))!.mustChange).toBe(true)
    const change = (current: string, password: string) =>
      status(changeOwnPassword(books.database, actor, { current, password }))
    expect(await change('wrong', 'another three words')).toBe(422)
    expect(await change(PASSWORD, PASSWORD)).toBe(422)
    expect(await change(PASSWORD, 'another three words')).toBe('accepted')
    expect(await findSession(books.database, token, ACCESS)).toBeUndefined()
    expect(await signIn(books.database, email, 'another three words', '6.6.6.6')).toMatchObject({
      mustChange: false,
    })
  })
})

describe('sessions', () => {
  test('another process on the same database knows them', async () => {
    const { actor } = await somebody()
    const token = await openSession(books.database, actor.id, HOME)
    const other = openDatabase(books.url, 1)
    try {
      expect(await findSession(other, token, ACCESS)).toMatchObject({ actor: { id: actor.id } })
      await endSession(other, token)
    } finally {
      await other.close()
    }
    expect(await findSession(books.database, token, ACCESS)).toBeUndefined()
  })
  test('the database holds no token', async () => {
    const { actor } = await somebody()
    const token = await openSession(books.database, actor.id, HOME)
    const rows = await books.database.select('SELECT * FROM session')
    expect(JSON.stringify(rows)).not.toContain(token)
    expect(
      await findSession(
        books.database,
        token.replace(/^./, c => (c === 'A' ? 'B' : 'A')),
        ACCESS,
      ),
    ).toBe(undefined)
  })
  test('end by idling, by age, and are tidied away', async () => {
    const { actor } = await somebody()
    const [idle, old] = [
      await openSession(books.database, actor.id, HOME),
      await openSession(books.database, actor.id, HOME),
    ]
    const [{ id: idleId }] = (await books.database.select(
      `SELECT MIN(id) AS id FROM session WHERE person_id = ${actor.id}`,
    )) as [{ id: number }]
    await books.database.run(
      `UPDATE session SET used_at = UTC_TIMESTAMP(3) - INTERVAL 61 MINUTE WHERE id = ${idleId}`,
    )
    await books.database.run(
      `UPDATE session SET at = UTC_TIMESTAMP(3) - INTERVAL 13 HOUR WHERE id > ${idleId}
        AND person_id = ${actor.id}`,
    )
    for (const token of [idle, old]) expect(await findSession(books.database, token, ACCESS)).toBeUndefined()
    await tidySessions(books.database, ACCESS)
    const left = await books.database.select(`SELECT id FROM session WHERE person_id = ${actor.id}`)
    expect(left).toEqual([])
  })
  test('are listed to their owner, who ends one elsewhere, and no one else’s', async () => {
    const [own, other] = [await somebody(), await somebody()]
    const here = await openSession(books.database, own.id, HOME)
    const there = await openSession(books.database, own.id, { network: '8.8.8.8', agent: 'a telephone' })
    const foreign = await openSession(books.database, other.id, HOME)
    const { sessionId } = (await findSession(books.database, here, ACCESS))!
    const { items } = await listSessions(books.database, own.actor, sessionId, ACCESS)
    expect(items.map(s => [s.agent, s.current])).toEqual(
      expect.arrayContaining([
        ['a browser', true],
        ['a telephone', false],
      ]),
    )
    const { sessionId: foreignId } = (await findSession(books.database, foreign, ACCESS))!
    expect(await status(endOwnSession(books.database, own.actor, foreignId))).toBe(404)
    await endOwnSession(books.database, own.actor, items.find(s => !s.current)!.id)
    expect(await findSession(books.database, there, ACCESS)).toBeUndefined()
    expect(await findSession(books.database, here, ACCESS)).toBeDefined()
  })
  test.each([
    ['a role changes', { role: 'treasurer' as const }],
    ['a password is given', { password: 'a brand new one' }],
    ['access is taken', { active: false }],
  ])('all end when %s', async (_, change) => {
    const { id } = await somebody()
    const token = await openSession(books.database, id, HOME)
    await changePerson(books.database, books.actor, id, change)
    expect(await findSession(books.database, token, ACCESS)).toBeUndefined()
  })
  test('an administrator signs somebody out, and nobody takes away their own access', async () => {
    const { id, actor } = await somebody('administrator')
    const token = await openSession(books.database, id, HOME)
    expect(await status(changePerson(books.database, actor, id, { active: false }))).toBe(409)
    expect(await status(changePerson(books.database, actor, id, { password: 'a brand new one' }))).toBe(409)
    await signOutPerson(books.database, books.actor, id)
    expect(await findSession(books.database, token, ACCESS)).toBeUndefined()
  })
})

describe('where a request comes from', () => {
  test.each([
    ['nobody trusted: the header is not believed', '10.0.0.9', '1.2.3.4', [], '10.0.0.9'],
    ['a trusted proxy tells the caller', '10.0.0.9', '1.2.3.4', ['10.0.0.0/8'], '1.2.3.4'],
    ['only what the proxy wrote', '10.0.0.9', '6.6.6.6, 1.2.3.4', ['10.0.0.0/8'], '1.2.3.4'],
    ['two proxies', '10.0.0.9', '6.6.6.6, 1.2.3.4, 10.0.0.8', ['10.0.0.0/8'], '1.2.3.4'],
    ['IPv4 within IPv6', '::ffff:10.0.0.9', '1.2.3.4', ['10.0.0.9'], '1.2.3.4'],
    ['nonsense in the header', '10.0.0.9', 'unknown, <script>', ['10.0.0.9'], '10.0.0.9'],
  ])('%s', (_, remote, forwarded, proxies, caller) => {
    expect(callerOf(remote, forwarded, proxies)).toBe(caller)
  })
  test('an IPv6 household is one network', () => {
    expect(networkOf('2001:db8:1:2:3:4:5:6')).toBe(networkOf('2001:db8:1:2::9'))
    expect(networkOf('2001:db8:1:3::9')).not.toBe(networkOf('2001:db8:1:2::9'))
    expect(networkOf('::ffff:1.2.3.4')).toBe('1.2.3.4')
  })
  test('only our own names are answered', () => {
    for (const host of ['127.0.0.1:3000', 'localhost', '[::1]:3000', 'Desk.Example:443'])
      expect(isOurHost(host, ['desk.example'])).toBe(true)
    for (const host of ['evil.example', '127.0.0.1.evil.example', 'localhost@evil.example', '', undefined])
      expect(isOurHost(host, ['desk.example'])).toBe(false)
  })
})
