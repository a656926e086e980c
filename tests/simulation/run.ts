import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { facilityBody } from '../../contract/factoring'
import type { Isolation } from '../../server/db/connection'
import type { Handle } from '../../server/db/handle'
import { codeOf } from '../../server/db/retry'
import { LedgerRefused, perform, type AnyCommand } from '../../server/ledger/command'
import { verifyLedger } from '../../server/ledger/verify'
import { Image } from '../../server/image/image'
import { imageDifferences } from '../../server/image/verify'
import { MailRefused, type MailPort } from '../../server/ports/mail'
import { addBankAccount } from '../../server/services/banking/accounts'
import { takeInbox } from '../../server/services/banking/inbox'
import { takeStatement } from '../../server/services/banking/statements'
import { ProblemError } from '../../server/services/common/problems'
import { keepFacility } from '../../server/services/factoring/facilities'
import { sendNext } from '../../server/services/outbox/outbox'
import type { Actor } from '../../server/services/people/scope'
import { confirmRun } from '../../server/services/reminders/confirm'
import { changePolicy, policyOn } from '../../server/services/reminders/policies'
import { proposeRun } from '../../server/services/reminders/runs'
import { withdrawCommand } from '../../server/services/reminders/withdraw'
import { writeSetting } from '../../server/db/settings'
import { writeCamt, type StatementLine } from '../../formats/statements'
import { chance as seeded, type Chance } from '../../simulators/chance'
import { customers, documents, freshBooks, type Books } from '../server/database'
import { FACTORS, nextAct, TODAY, type Act, type Outcome, type World } from './acts'
import { Model } from './model'
import { OtherProcess } from './other'
import { interleave } from './turns'

export interface Report {
  seed: string
  steps: number
  seconds: number
  /** How often each kind of act took effect, and how often it was refused. */
  done: Record<string, number>
  refused: Record<string, number>
  faults: Record<string, number>
}

/** What a run found: what disagrees, and the acts that led there. */
export class Found extends Error {}

const IBAN = 'IE64IRCE92050112345678'
const WORLD = `number,name,country,currency,email
K1,Hollin & Sedge,IE,EUR,maud@hollin.example
K2,Brae & Barrow,GB,GBP,
K3,Quernstone,IE,EUR,post@quernstone.example
`

const TERMS = facilityBody.parse({
  ...{ name: 'Factor', recourse: false, disclosed: false, currencies: ['EUR'], interestReference: null },
  ...{ advanceRate: 8000, commissionRate: 150, taxRate: 2000, interestRate: 600, eligible: {} },
  accounts: { current: '1310', commission: '6910', interest: '6930', tax: '2210' },
})

/** A person's world: three accounts, some dozens of documents, a bank account with lines to work. */
async function begin(
  chance: Chance,
  isolation: Isolation,
  process: OtherProcess,
  report: Report,
): Promise<{ books: Books; world: World }> {
  const books = await freshBooks(isolation)
  const { database, actor } = books
  await customers(books, WORLD)
  const rows = Array.from({ length: 24 }, (_, n) => {
    const customer = chance.pick(['K1', 'K1', 'K2', 'K3'])
    const kind = chance.happens(0.2) ? 'credit-note' : 'invoice'
    const date = `2026-${chance.pick(['09', '10', '11'])}-0${chance.whole(1, 9)}`
    return `26-${n + 1},${kind},${customer},${date},${chance.whole(10, 900)}.${chance.whole(10, 99)}`
  })
  await documents(books, `number,kind,customer,date,amount\n${rows.join('\n')}\n`)
  await addBankAccount(database, 1, {
    name: 'Current account',
    iban: IBAN,
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  for (const { code, recourse, accounts: own } of FACTORS) {
    const accounts = { ...TERMS.accounts, ...own }
    await keepFacility(database, actor, code, { ...TERMS, name: code, recourse, accounts })
  }
  await writeSetting(database, 1, 'matching', { automatic: false, wrongCosts: 40 })
  // Reminders cost a fee from the first level on, and interest.
  const { code, validFrom: _, ...policy } = await policyOn(database, 'standard', TODAY)
  await changePolicy(database, 1, code, {
    ...policy,
    levels: policy.levels.map(l => ({ ...l, fee: { EUR: 1000, GBP: 900 }, interest: true })),
    interest: {
      convention: 'actual/360',
      percent: '9',
      reference: null,
      basis: { otherwise: 'floating', byCountry: {} },
      minimum: {},
    },
  })
  await database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES
      ('b@example.org', 'Bea Cash', 'supervisor', 'x'), ('c@example.org', 'Col Cash', 'supervisor', 'x')`,
  )
  const actors: Actor[] = [
    books.actor,
    { id: 2, name: 'Bea Cash', email: 'b@example.org', role: 'supervisor' },
    { id: 3, name: 'Col Cash', email: 'c@example.org', role: 'supervisor' },
  ]
  const model = new Model()
  await learnItems(database, model)
  const elsewhere = { process, url: books.url, keys: 0, count: (what: string) => count(report.faults, what) }
  return { books, world: { chance, model, actors, unsteady: c => c, elsewhere, batches: new Map() } }
}

/** Documents and fees that the model did not make itself: what they are, not what is open of them. */
async function learnItems(db: Handle, model: Model): Promise<void> {
  const rows = await db.select<{
    id: number
    customer: string
    currency: string
    side: 'debit' | 'credit'
    amount: number
    date: string
    fee: number
  }>(
    `SELECT i.id, c.number AS customer, i.currency, i.side, i.amount, i.posting_date AS date,
      i.kind IN ('fee', 'interest') AS fee FROM item i JOIN customer c ON c.id = i.customer_id
      WHERE i.kind IN ('invoice', 'credit-note', 'debit-note', 'fee', 'interest')`,
  )
  for (const { fee, ...r } of rows)
    if (!model.items.has(r.id))
      model.items.set(r.id, {
        ...r,
        open: r.amount,
        kind: fee ? 'fee' : 'document',
        reversed: false,
      })
}

let files = 0

/** The bank sends some lines; now and then a file that cannot be read lies before them. */
async function newLines(books: Books, world: World, report: Report): Promise<void> {
  const { chance, model } = world
  const { database, actor } = books
  const opening = await balanceOfStatements(database)
  const line = (amount: number): StatementLine => ({
    bookingDate: TODAY,
    valueDate: TODAY,
    amount,
    name: 'Somebody',
    iban: '',
    text: `payment ${++files}`,
    reference: '',
    endToEndId: '',
    bankReference: `B${files}`,
    code: 'PMNT-RCDT-ESCT',
    returnReason: '',
  })
  const waits = [...model.means.values()].filter(m => m.place === 'clearing' && m.currency === 'EUR')
  const slips = [...model.slips.values()].filter(s => s.state === 'open' && s.currency === 'EUR')
  const lines = [
    ...waits.slice(0, 2).map(m => line(m.amount)),
    ...slips.slice(0, 2).map(s => line(s.total - s.kept)),
    line(chance.whole(100, 80_000)),
    line(-chance.whole(100, 5000)),
  ]
  const closing = opening + lines.reduce((a, l) => a + l.amount, 0)
  const id = `S-${++files}`
  const shape = { format: 'camt.053' as const, account: IBAN, currency: 'EUR', from: TODAY, to: TODAY }
  const bytes = Buffer.from(writeCamt({ ...shape, id, opening, closing, lines }, `${TODAY}T22:00:00`))
  if (chance.happens(0.5)) {
    const folder = mkdtempSync(join(tmpdir(), 'bilancio-sim-'))
    mkdirSync(join(folder, 'inbox'))
    writeFileSync(join(folder, 'inbox', '1-bad.xml'), chance.pick(['<Document>', 'no file', ':20:x']) + files)
    writeFileSync(join(folder, 'inbox', '2-good.xml'), bytes)
    process.env.BILANCIO_BANK = folder
    const taken = await takeInbox(database, actor)
    delete process.env.BILANCIO_BANK
    rmSync(folder, { recursive: true, force: true })
    if (taken.setAside.length !== 1 || taken.fresh !== lines.length)
      throw new Found(`a bad file held up a good one: ${JSON.stringify(taken)}`)
    count(report.faults, 'bad bank file')
  } else await takeStatement(database, actor, bytes, { name: 'x.xml', propose: false })
  const rows = await database.select<{ id: number; amount: number; currency: string }>(
    'SELECT id, amount, currency FROM bank_line',
  )
  for (const r of rows) if (!model.lines.has(r.id)) model.lines.set(r.id, { ...r, matched: null })
}

async function balanceOfStatements(db: Handle): Promise<number> {
  const [row] = await db.select<{ sum: unknown }>('SELECT COALESCE(SUM(amount), 0) AS sum FROM bank_line')
  return Number(row!.sum)
}

/** Reminders go out through a mail server that is slow, away, or refuses. No letter is taken twice. */
async function remind(books: Books, world: World, report: Report): Promise<void> {
  const { database, actor } = books
  const { chance } = world
  const kind = chance.happens(0.3) ? ('interest' as const) : ('reminder' as const)
  const run = await proposeRun(database, actor, { asOf: TODAY, policy: 'standard', kind })
  if (run.totals.notices)
    try {
      await confirmRun(database, actor, run.id, { version: run.version })
    } catch (error) {
      if (!isRefusal(error)) throw error
    }
  await learnItems(database, world.model)
  const accepted: string[] = []
  const mail: MailPort = {
    async send({ messageId }) {
      if (chance.happens(0.2)) throw new MailRefused('550 no such mailbox')
      if (chance.happens(0.3)) throw new Error('connect ECONNREFUSED')
      await new Promise(resolve => setTimeout(resolve, chance.whole(0, 3)))
      accepted.push(messageId)
      return '250 kept'
    },
  }
  while ((await Promise.all([sendNext(database, mail), sendNext(database, mail)])).some(Boolean))
    count(report.faults, 'letter tried')
  if (new Set(accepted).size !== accepted.length) throw new Found('a letter was taken twice')
  const [queued] = await database.select<{ n: number }>(
    `SELECT COUNT(*) AS n FROM outbox WHERE state = 'queued'`,
  )
  if (queued!.n) throw new Found(`${queued!.n} letters stayed queued`)
  if (chance.happens(0.5)) await withdrawIt(books, world, run.id, report)
}

/** A run is taken back, by two at once: its fees and interest are gone, what was paid on them is free. */
async function withdrawIt(books: Books, world: World, runId: number, report: Report): Promise<void> {
  const { database, actor } = books
  const charges = await database.select<{ id: number }>(
    `SELECT i.id FROM live_notice n JOIN item i ON i.id IN (n.fee_item_id, n.interest_item_id)
      WHERE n.run_id = :runId`,
    { runId },
  )
  const ask = { id: runId, keys: null, reason: 'simulated', tell: true }
  const done = await Promise.allSettled([
    perform(database, actor, withdrawCommand, ask),
    perform(database, actor, withdrawCommand, ask),
  ])
  for (const d of done) if (d.status === 'rejected' && !isRefusal(d.reason)) throw d.reason
  if (!done.some(d => d.status === 'fulfilled')) return
  for (const { id } of charges) world.model.reverse(id)
  count(report.faults, 'run withdrawn')
}

const count = (of: Record<string, number>, what: string) => (of[what] = (of[what] ?? 0) + 1)
const isRefusal = (error: unknown) => error instanceof LedgerRefused || error instanceof ProblemError

class Injected extends Error {}

/** Draws faults for a Command: a deadlock that is tried again, or a connection killed on its way. */
function faulty(books: Books, chance: Chance, report: Report): World['unsteady'] {
  return (what: AnyCommand): AnyCommand => {
    let deadlocks = chance.happens(0.06) ? chance.whole(1, 3) : 0
    const kill = chance.happens(0.02)
    return {
      ...what,
      load: async (db, input, behind) => {
        if (db.inTransaction && deadlocks-- > 0) {
          count(report.faults, 'deadlock')
          throw Object.assign(new Error('Deadlock found'), { original: { code: 'ER_LOCK_DEADLOCK' } })
        }
        return what.load(db, input, behind) as Promise<never>
      },
      after: async done => {
        const result: unknown = await what.after(done)
        if (kill) {
          count(report.faults, 'connection killed')
          const [own] = await done.db.select<{ id: number }>('SELECT CONNECTION_ID() AS id')
          await books.database.apart().run(`KILL ${own!.id}`)
          throw new Injected('the connection was killed')
        }
        return result
      },
    }
  }
}

const PLACES = [
  ['tray', 'on-hand'],
  ['clearing', 'clearing'],
  ['bank', 'bank'],
] as const

/** Where the books and the model disagree, in words; empty when they do not. */
async function compare(db: Handle, model: Model, image: Image): Promise<string[]> {
  const differences = [...(await verifyLedger(db)), ...(await imageDifferences(db, image))]
  const found = differences.map(d => `${d.what}: ${d.row}: expected ${d.expected}, found ${d.found}`)
  const rows = await db.select<{ id: number; open: number }>(
    'SELECT item_id AS id, ABS(open) AS open FROM open_item',
  )
  const open = new Map(rows.map(r => [r.id, Number(r.open)]))
  for (const item of model.items.values()) {
    const real = open.get(item.id) ?? 0
    if (real !== item.open) found.push(`item ${item.id}: the model has ${item.open} open, the books ${real}`)
    open.delete(item.id)
  }
  for (const [id, amount] of open) found.push(`item ${id} has ${amount} open and the model does not know it`)
  const balances = await db.select<{ purpose: string; currency: string; amount: unknown }>(
    `SELECT a.purpose, l.currency, SUM(l.amount) AS amount FROM journal_line l
      JOIN ledger_account a ON a.number = l.account GROUP BY a.purpose, l.currency`,
  )
  const balance = (purpose: string, currency: string) =>
    Number(balances.find(b => b.purpose === purpose && b.currency === currency)?.amount ?? 0)
  for (const currency of ['EUR', 'GBP']) {
    for (const [place, purpose] of PLACES) {
      const [lies, books] = [model.lies(place, currency), balance(purpose, currency)]
      if (lies !== books) found.push(`${place} ${currency}: the model has ${lies}, the books ${books}`)
    }
  }
  const petty = balance('petty-cash', 'EUR') + balance('petty-cash', 'GBP')
  if (petty !== model.petty) found.push(`petty cash: the model has ${model.petty}, the books ${petty}`)
  return found
}

export interface Asked {
  seed: string
  steps: number
  isolation: Isolation
  /** So many acts at once, at most. */
  atOnce?: number
  tell?: (text: string) => void
}

/** So many acts, then the world begins anew: small books are compared quickly. */
const EPISODE = 250

/** Runs a simulation. Throws Found, with a short replay, when books and model disagree. */
export async function simulate({ seed, steps, isolation, atOnce = 5, tell }: Asked): Promise<Report> {
  const report: Report = { seed, steps: 0, seconds: 0, done: {}, refused: {}, faults: {} }
  const started = Date.now()
  const other = new OtherProcess(isolation)
  try {
    for (let episode = 0; report.steps < steps; episode++) {
      const own = `${seed}-${episode}`
      const { books, world } = await begin(seeded(own), isolation, other, report)
      try {
        await live(books, world, report, Math.min(EPISODE, steps - report.steps), atOnce, own)
      } finally {
        await books.close()
      }
      tell?.(`${report.steps} steps, ${Math.round((Date.now() - started) / 1000)} s`)
    }
  } finally {
    other.close()
  }
  report.seconds = (Date.now() - started) / 1000
  return report
}

async function live(
  books: Books,
  world: World,
  report: Report,
  steps: number,
  atOnce: number,
  seed: string,
): Promise<void> {
  const { chance, model } = world
  const told: string[] = []
  world.unsteady = faulty(books, chance, report)
  await newLines(books, world, report)
  // One ledger in memory for the whole episode, brought up to date amid the acts.
  const image = new Image(books.database)
  for (let at = 0; at < steps;) {
    if (chance.happens(0.04)) await newLines(books, world, report)
    if (chance.happens(0.06)) await remind(books, world, report)
    const acts: Act[] = Array.from({ length: chance.whole(1, atOnce) }, () => nextAct(world))
    at += acts.length
    report.steps += acts.length
    const results = await interleave<Outcome>(
      chance,
      acts.map(act => () => act.run(books.database)),
      async () => {
        for (let times = chance.whole(0, 3); times > 0; times--) await image.catchUp()
      },
    )
    const outcomes: Outcome[] = []
    for (const [i, r] of results.entries()) {
      const kind = acts[i]!.told.replace(/[\d{[].*/, '').trim()
      if (r.status === 'fulfilled') {
        count(report.done, kind)
        outcomes.push(r.value)
      } else if (isRefusal(r.reason)) count(report.refused, kind)
      else if (!isInjected(r.reason))
        throw found(seed, told, acts, [`${acts[i]!.told}: ${describe(r.reason)}`])
      told.push(`${acts[i]!.told} → ${r.status === 'fulfilled' ? 'done' : describe(r.reason)}`)
    }
    const wrong: string[] = []
    try {
      for (const o of outcomes.sort((a, b) => a.order - b.order)) o.apply(model)
      wrong.push(...model.wrongs())
    } catch (error) {
      wrong.push((error as Error).message)
    }
    wrong.push(...(await compare(books.database, model, image)))
    if (wrong.length) throw found(seed, told, acts, wrong)
  }
}

/** What a killed connection answers, whatever statement it was killed in. */
function isInjected(error: unknown): boolean {
  const { original, message } = error as { original?: { code?: string }; message?: string }
  return (
    error instanceof Injected ||
    original?.code === 'PROTOCOL_CONNECTION_LOST' ||
    /closed state|was killed|Connection lost/.test(message ?? '')
  )
}

const describe = (error: unknown) =>
  error instanceof LedgerRefused
    ? error.refusals.map(r => r.rule).join(' ')
    : [codeOf(error), ...((error as Error).stack ?? String(error)).split('\n').slice(0, 6)].join(' | ')

function found(seed: string, told: readonly string[], acts: readonly Act[], wrong: readonly string[]): Found {
  const last = told.slice(-12).join('\n  ')
  return new Found(
    `seed ${seed}: ${wrong.slice(0, 8).join('\n  ')}\nat once: ${acts.length}; the last acts:\n  ${last}`,
  )
}
