import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { prepareFolder, startMariadb } from '../../scripts/lib/mariadb.mjs'
import { runTs } from '../../scripts/lib/project.mjs'

/**
 * A MariaDB of the tests' own, in a temporary folder and on a free port. It is thrown away: nothing waits for
 * the disk, and all tables share a file, since some hundred databases are made and dropped. Interrupted, the
 * run takes it along, also when it is killed.
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
    endsWithUs: true,
  })
  globalThis.bilancioTest = { folder, server }
  process.env.TEST_DATABASE_URL = server.ownerUrl
  process.env.TEST_APPLICATION_URL = server.url
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
    process.once(signal, () => {
      server.process.kill('SIGKILL')
      rmSync(folder, { recursive: true, force: true })
      process.exit(130)
    })
  if ((await runTs('tests/server/template.ts', { BILANCIO_DATA: folder })) !== 0)
    throw new Error('the books that each suite begins with could not be made: see above')
}
