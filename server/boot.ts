import { randomBytes } from 'node:crypto'
import { loadDemo } from '../demo/load'
import { DEMO_PASSWORD, DEMO_PEOPLE } from '../demo/people'
import { int, openDatabase } from './db/connection'
import { grantApplication } from './db/grants'
import { migrate } from './db/migrate'
import { seedBasics } from './db/seed'
import { closeParsing } from './parse'
import { hashPassword } from './services/people/passwords'

/**
 * Before the server starts: migrations, basics, and on an empty database the demo or the first administrator.
 */
async function boot(): Promise<void> {
  const database = openDatabase(process.env.DATABASE_URL!, 4)
  const say = (text: string) => console.log(text)
  const applied = await migrate(database)
  const user = process.env.BILANCIO_DATABASE_USER
  if (user) await grantApplication(database, user)
  if (applied.length) say(`Database brought up to date: ${applied.join(', ')}`)
  await seedBasics(database)
  // A demo that was cut short is begun again from nothing, never half there.
  const [unfinished] = await database.find('setting', { name: 'demoLoading' }, { columns: ['value'] })
  if (unfinished) await empty(database)
  const [people] = await database.select('SELECT COUNT(*) AS n FROM person')
  if (int(people!.n) === 0) {
    if (process.env.BILANCIO_DEMO === '0') await firstAdministrator(database, say)
    else {
      say('Loading the demo, under a minute')
      await database.insert('setting', [{ name: 'demoLoading', value: 'true' }])
      const started = Date.now()
      await loadDemo(database, say)
      await database.remove('setting', { name: 'demoLoading' })
      say(`Demo loaded in ${Math.round((Date.now() - started) / 1000)} s`)
    }
  }
  const [demo] = await database.find('setting', { name: 'demo', value: 'true' }, { columns: ['value'] })
  if (demo)
    say(`Sign in as one of ${DEMO_PEOPLE.map(p => p.email).join(', ')}; the password is ${DEMO_PASSWORD}`)
  await closeParsing()
  await database.close()
}

async function empty(database: ReturnType<typeof openDatabase>): Promise<void> {
  const tables = await database.select<{
    name: string
  }>(`SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE()
      AND table_name <> 'migration'`)
  // One connection: the checks are off for it alone, and on again after.
  await database.transaction(async tx => {
    await tx.run('SET FOREIGN_KEY_CHECKS = 0')
    for (const { name } of tables) await tx.run(`TRUNCATE TABLE \`${name}\``)
    await tx.run('SET FOREIGN_KEY_CHECKS = 1')
  })
  await seedBasics(database)
}

async function firstAdministrator(
  database: ReturnType<typeof openDatabase>,
  say: (text: string) => void,
): Promise<void> {
  const password = randomBytes(9).toString('base64url')
  await database.insert('person', [
    {
      email: 'administrator@bilancio.example',
      name: 'Administrator',
      role: 'administrator',
      password_hash: await hashPassword(password),
      must_change: 1,
    },
  ])
  say(
    `First sign-in: administrator@bilancio.example with the password ${password}. It is shown this ` +
      'once, and must be changed then',
  )
}

boot().catch((error: unknown) => {
  console.error(`Bilancio cannot use its database: ${error instanceof Error ? error.message : String(error)}`)
  process.exit(1)
})
