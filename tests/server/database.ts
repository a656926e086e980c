import { execFileSync } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Handle } from '../../server/db/handle'
import { openDatabase, type Isolation } from '../../server/db/connection'
import { importCustomers, importDocuments } from '../../server/services/documents/imports'
import type { Actor } from '../../server/services/people/scope'
import { CREATED, TEMPLATE, urlOf } from './places'

export { TODAY } from './places'

export interface Books {
  database: Handle
  /** As DATABASE_URL, for another process. */
  url: string
  actor: Actor
  close: () => Promise<void>
}
/** A client program of the database, as the owner of the tests' databases. */
function client(program: string, args: string[], input = ''): string {
  const { hostname, port, username, password } = new URL(process.env.TEST_DATABASE_URL!)
  return execFileSync(program, [`--host=${hostname}`, `--port=${port}`, `--user=${username}`, ...args], {
    input,
    env: { ...process.env, MYSQL_PWD: password },
    encoding: 'utf8',
    maxBuffer: 64 * 1024 * 1024,
  })
}

let copied: string | undefined

/** The template as statements, read once for each suite: thirty migrations for every test took the time. */
function template(): string {
  copied ??= client('mariadb-dump', ['--routines', '--skip-comments', TEMPLATE])
  return copied
}

/** A fresh, migrated database with one supervisor, the clock on 16 Nov 2026. */
export async function freshBooks(isolation: Isolation = 'READ COMMITTED'): Promise<Books> {
  // Nothing of a test reaches the data folder of an application on this machine.
  process.env.BILANCIO_DATA ||= mkdtempSync(join(tmpdir(), 'bilancio-data-'))
  const name = `t_${randomUUID().replace(/-/g, '')}`
  const admin = openDatabase(process.env.TEST_DATABASE_URL!, 1)
  const statements = template()
  await admin.run(`CREATE DATABASE ${name} ${CREATED}`)
  client('mariadb', [name], statements)
  const url = urlOf(name)
  const database = openDatabase(url, 12, { isolation })
  return {
    database,
    url,
    actor: { id: 1, name: 'Sam Over', email: 's@example.org', role: 'supervisor' },
    close: async () => {
      await database.close()
      await admin.run(`DROP DATABASE ${name}`)
      await admin.close()
    },
  }
}

const quiet = async () => {}
export const customers = (books: Books, csv: string, options = {}) =>
  importCustomers(books.database, books.actor, csv, { dryRun: false, skipExisting: false, ...options }, quiet)
export const documents = (books: Books, csv: string, options = {}) =>
  importDocuments(books.database, books.actor, csv, { dryRun: false, skipExisting: false, ...options }, quiet)

export const CUSTOMERS = `number,name,class,country,language,currency,terms,credit_limit,contact,email,phone,iban,vat_number,parent
K1,Hollin & Sedge,food,IE,en,EUR,"2% 10, net 30",60000,Maud Ferrow,maud@hollin.example,+353 1 555 0142,IE29AIBK93115212345678,IE1234567T,
K2,Fjordlys Fisk,fish,NO,en,NOK,net 45,,,post@fjordlys.example,,,,
K3,Brae & Barrow,garden,GB,en,GBP,eom 30,25000,,,,,,K1
`
export const DOCUMENTS = `number,kind,customer,date,due_date,currency,amount,tax,order,text
26-1,invoice,K1,2026-08-14,,EUR,1210.40,226.33,SO-1,dulse
26-2,invoice,K1,2026-10-24,2026-11-23,EUR,9120.00,0,,
26-3,invoice,K2,2026-09-01,,NOK,50000.00,0,,
26-4,invoice,K3,2026-10-05,,GBP,2210.10,0,,
C-1,credit-note,K1,2026-10-30,,EUR,110.40,0,,short delivery
`
