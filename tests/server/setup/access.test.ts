import { createConnection, type Connection } from 'mysql2/promise'
import { openDatabase } from '../../../server/db/connection'

/*
 * Who gets into the embedded database: any user of the machine reaches its port, so nobody may enter without
 * a password, and nobody reads or writes files through it.
 */

const url = new URL(process.env.TEST_DATABASE_URL!)
const enter = (user: string, password: string): Promise<Connection> =>
  createConnection({ host: '127.0.0.1', port: Number(url.port), user, password })

test.each([
  ['root', ''],
  ['root', 'root'],
  ['', ''],
  ['mysql', ''],
  ['mariadb.sys', ''],
  ['bilancio', ''],
  ['bilancio_owner', ''],
])('"%s" with the password "%s" is refused', async (user, password) => {
  await expect(enter(user, password)).rejects.toMatchObject({ code: 'ER_ACCESS_DENIED_ERROR' })
})

test('every account that can sign in has a password', async () => {
  const owner = openDatabase(process.env.TEST_DATABASE_URL!, 1)
  try {
    const accounts = await owner.select<{ name: string }>(
      `SELECT CONCAT(User, '@', Host) AS name FROM mysql.global_priv
        WHERE COALESCE(JSON_VALUE(Priv, '$.account_locked'), 0) = 0
          AND COALESCE(JSON_VALUE(Priv, '$.is_role'), 0) = 0
          AND COALESCE(JSON_VALUE(Priv, '$.authentication_string'), '') = ''`,
    )
    expect(accounts).toEqual([])
    const left = await owner.select<{ name: string }>(
      `SELECT CONCAT(User, '@', Host) AS name FROM mysql.global_priv WHERE User IN ('root', '')`,
    )
    expect(left).toEqual([{ name: 'root@localhost' }])
  } finally {
    await owner.close()
  }
})

test('no statement reads a file of the machine or writes one', async () => {
  const owner = openDatabase(process.env.TEST_DATABASE_URL!, 1)
  try {
    const [file] = await owner.select<{ text: string | null }>(`SELECT LOAD_FILE('/etc/passwd') AS text`)
    expect(file!.text).toBeNull()
    const writing = owner.run(`SELECT 1 INTO OUTFILE '/tmp/bilancio-written'`)
    await expect(writing).rejects.toMatchObject({ original: { code: 'ER_OPTION_PREVENTS_STATEMENT' } })
  } finally {
    await owner.close()
  }
})
