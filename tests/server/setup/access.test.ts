import { spawnSync } from 'node:child_process'
import { readFileSync, statSync } from 'node:fs'
import { dirname, join } from 'node:path'
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

/** As user "nobody" of the machine; only root can try that. */
const NOBODY = 65_534
const asNobody = (command: string, ...args: string[]) =>
  spawnSync(command, args, { encoding: 'utf8', uid: NOBODY, gid: NOBODY })
const ifRoot = process.getuid!() === 0 ? test : test.skip

ifRoot('the server does not run as root, and no other user of the machine reaches its files', async () => {
  const owner = openDatabase(process.env.TEST_DATABASE_URL!, 1)
  try {
    const [where] = await owner.select<{ pidFile: string; folder: string }>(
      'SELECT @@pid_file AS pidFile, @@datadir AS folder',
    )
    const pid = readFileSync(where!.pidFile, 'utf8').trim()
    const uid = Number(/^Uid:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1])
    expect(uid).not.toBe(0)
    expect(statSync(where!.folder).uid).toBe(uid)
    const data = dirname(where!.folder.replace(/\/$/, ''))
    for (const path of [data, join(data, 'bilancio.json'), where!.folder, join(data, 'mariadb.log')]) {
      const tried = asNobody('cat', path)
      expect([path, tried.status]).toEqual([path, 1])
      expect(tried.stderr).toContain('Permission denied')
    }
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
