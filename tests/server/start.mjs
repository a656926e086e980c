import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { prepareFolder, startMariadb } from '../../scripts/lib/mariadb.mjs'

/**
 * A MariaDB of the tests' own, in a temporary folder and on a free port. It is thrown away: nothing waits for
 * the disk, and all tables share a file, since some hundred databases are made and dropped.
 */
export default async function start() {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-test-'))
  const server = await startMariadb(folder, prepareFolder(folder).database, {
    args: [
      '--innodb-buffer-pool-size=256M',
      '--innodb-flush-log-at-trx-commit=2',
      '--sync-frm=0',
      '--innodb-file-per-table=0',
      '--innodb-flush-method=nosync',
    ],
    everything: true,
  })
  globalThis.bilancioTest = { folder, server }
  process.env.TEST_DATABASE_URL = server.ownerUrl
  process.env.TEST_APPLICATION_URL = server.url
}
