import { spawnSync } from 'node:child_process'
import { rmSync } from 'node:fs'
import { request as requests, type APIRequestContext } from '@playwright/test'
import bcrypt from 'bcryptjs'
import { ROLES, type Role } from '../../core/people'
import { startApplication, stopApplication, type Application } from './application'
import { asOwner } from './database'
import { expect } from './base'

export const PASSWORD = 'three kelp words'
export const IBAN = 'IE64IRCE92050112345678'

export interface World {
  app: Application
  /** One signed in for each role. */
  as: Record<Role, APIRequestContext>
  /** The real day: an application without the demo has no Clock. */
  today: string
  /** Somebody signed in by e-mail. */
  signedIn: (email: string) => Promise<APIRequestContext>
  close: () => Promise<void>
}

export const emailOf = (name: string) => `${name}@world.example`

/** People with a password of their own, put into the database: a bcrypt for each would take the time. */
export async function addPeople(data: string, people: { name: string; role: string }[]): Promise<void> {
  const hash = await bcrypt.hash(PASSWORD, 10)
  const owner = await asOwner(data)
  await owner.query('INSERT INTO person (email, name, role, password_hash) VALUES ?', [
    people.map(p => [emailOf(p.name), p.name, p.role, hash]),
  ])
  await owner.end()
}

const CUSTOMERS = `number,name,country,currency,parent
K1,Hollin & Sedge,IE,EUR,
K2,Fjordlys Fisk,NO,EUR,
K3,Brae & Barrow,GB,EUR,K1
`

/**
 * An application of its own with a small world: a person for each role, three customers of whom one is the
 * sales contact's, invoices, a bank account, a receipt. What is tried here harms no other test.
 */
export async function openWorld(env: Record<string, string> = {}, data?: string): Promise<World> {
  const app = await startApplication({ BILANCIO_DEMO: '0', ...env }, data)
  if (!app.output().includes('ready')) throw new Error(`the application did not start:\n${app.output()}`)
  await addPeople(
    app.data,
    ROLES.map(role => ({ name: role, role })),
  )
  const signedIn = async (email: string): Promise<APIRequestContext> => {
    const request = await requests.newContext({ baseURL: app.url })
    const answer = await request.post('/api/session', { data: { email, password: PASSWORD } })
    expect(answer.status(), email).toBe(200)
    return request
  }
  const as = {} as Record<Role, APIRequestContext>
  for (const role of ROLES) as[role] = await signedIn(emailOf(role))
  const today = new Date().toISOString().slice(0, 10)
  const csv = (path: string, data: string) =>
    as.administrator.post(`/api/documents/imports/${path}`, { data, headers: { 'content-type': 'text/csv' } })
  expect((await csv('customers', CUSTOMERS)).status()).toBe(200)
  const owner = await asOwner(app.data)
  await owner.query(
    `UPDATE customer SET sales_id = (SELECT id FROM person WHERE role = 'sales') WHERE number = 'K3'`,
  )
  await owner.end()
  const invoices = ['K1', 'K2', 'K3'].flatMap(k =>
    Array.from({ length: 8 }, (_, i) => `${k}-${i},invoice,${k},${today},${(i + 1) * 100}.00`),
  )
  const documents = await csv('documents', `number,kind,customer,date,amount\n${invoices.join('\n')}\n`)
  expect(documents.status()).toBe(200)
  const account = { name: 'Current', iban: IBAN, currency: 'EUR', account: '1200', csvMap: null }
  expect((await as.administrator.post('/api/banking/accounts', { data: account })).status()).toBe(201)
  return {
    app,
    as,
    today,
    signedIn,
    close: async () => {
      for (const request of Object.values(as)) await request.dispose()
      await stopApplication(app)
      rmSync(app.data, { recursive: true, force: true })
    },
  }
}

/** Whether the ledger of an application is what its postings say. */
export function verify(app: Application): { status: number | null; stdout: string } {
  const { status, stdout } = spawnSync(process.execPath, ['scripts/run.mjs', 'verify'], {
    env: { ...process.env, DATABASE_URL: '', BILANCIO_DATA: app.data },
    encoding: 'utf8',
  })
  return { status, stdout }
}
