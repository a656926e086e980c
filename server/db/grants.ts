import type { Handle } from './handle'

/** What is only ever added to: the ledger and the audit trail. */
export const APPEND_ONLY = ['entry', 'item', 'allocation', 'journal_line', 'audit'] as const

/**
 * Gives the application's user what it needs on the tables of this schema: what is posted it may read and add
 * to, not change or delete. `user` as MariaDB names it: 'bilancio'@'127.0.0.1'. Run by the owner, after each
 * migration.
 */
export async function grantApplication(owner: Handle, user: string): Promise<void> {
  if (!/^'\w+'@'[\w.%]+'$/.test(user)) throw new Error(`${user} is not a database user`)
  const tables = await owner.select<{ name: string; type: string }>(
    `SELECT table_name AS name, table_type AS type FROM information_schema.tables
      WHERE table_schema = DATABASE() AND table_type IN ('BASE TABLE', 'VIEW')`,
  )
  const appendOnly = new Set<string>(APPEND_ONLY)
  for (const { name, type } of tables) {
    const changed = appendOnly.has(name) ? 'SELECT, INSERT' : 'SELECT, INSERT, UPDATE, DELETE'
    const rights = type === 'VIEW' ? 'SELECT' : changed
    await owner.run(`GRANT ${rights} ON \`${name}\` TO ${user}`)
  }
  await owner.run(`GRANT EXECUTE ON PROCEDURE merge_customer TO ${user}`)
}
