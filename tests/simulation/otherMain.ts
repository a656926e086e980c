import { openDatabase, type Isolation } from '../../server/db/connection'
import type { Handle } from '../../server/db/handle'
import { LedgerRefused, perform, type AnyCommand } from '../../server/ledger/command'
import { commandNamed } from '../../server/services/commands'
import { ProblemError } from '../../server/services/common/problems'
import type { Answer, Asked } from './other'

/*
 * The second process of a simulation: a server of its own on the same database. It performs what it is asked
 * to, and says before it commits what it has written.
 */

const tell = (answer: Answer) => process.send!(answer)

let open: { url: string; database: Handle } | undefined

async function databaseAt(url: string, isolation: Isolation): Promise<Handle> {
  if (open?.url === url) return open.database
  const before = open
  open = { url, database: openDatabase(url, 6, { isolation }) }
  await before?.database.close()
  return open.database
}

async function answer({ id, url, isolation, actor, name, ask, key }: Asked): Promise<void> {
  try {
    const database = await databaseAt(url, isolation)
    const what = commandNamed(name)
    const watched: AnyCommand = {
      ...what,
      after: async done => {
        const result: unknown = await what.after(done)
        tell({ id, written: done.written })
        return result
      },
    }
    const result: unknown = await perform(database, actor, watched, ask, { key, request: ask })
    tell({ id, result })
  } catch (error) {
    if (error instanceof LedgerRefused) tell({ id, refusals: error.refusals })
    else if (error instanceof ProblemError) tell({ id, problem: [error.status, error.title, error.message] })
    else tell({ id, fault: String((error as Error).stack ?? error) })
  }
}

process.on('message', (asked: Asked) => void answer(asked))
process.on('disconnect', () => process.exit(0))
