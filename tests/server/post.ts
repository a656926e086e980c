import type { z } from 'zod'
import type { Handle } from '../../server/db/handle'
import { perform, type AnyCommand, type Idempotency } from '../../server/ledger/command'
import { slipCommand, slipVoidCommand } from '../../server/services/banking/paying'
import { prove } from '../../server/services/books/proof'
import type { Actor } from '../../server/services/people/scope'
import {
  allocateCommand,
  receiveCommand,
  reverseCommand,
  unallocateCommand,
} from '../../server/services/receipts/commands'
import { putRightCommand } from '../../server/services/receipts/putRight'
import { readSundry, sundryCommand, sundryVoidCommand } from '../../server/services/receipts/sundry'

/*
 * The Commands as tests speak of them: what is asked, then posted or proved. Sam Over is the supervisor of
 * the test books.
 */

const SAM: Actor = { id: 1, name: 'Sam Over', email: 's@example.org', role: 'supervisor' }

interface Ask {
  what: AnyCommand
  ask: object
}

export const intents = {
  receipt: async (_: Handle, ask: z.input<typeof receiveCommand.input>): Promise<Ask> => ({
    what: receiveCommand,
    ask,
  }),
  allocate: async (_: Handle, ask: z.input<typeof allocateCommand.input>): Promise<Ask> => ({
    what: allocateCommand,
    ask,
  }),
  unallocate: async (_: Handle, ask: z.input<typeof unallocateCommand.input>): Promise<Ask> => ({
    what: unallocateCommand,
    ask,
  }),
  reverse: async (
    _: Handle,
    itemId: number,
    ask: Omit<z.input<typeof reverseCommand.input>, 'itemId'>,
  ): Promise<Ask> => ({
    what: reverseCommand,
    ask: { ...ask, itemId },
  }),
}

interface PostedItems {
  entry: number
  receipt: { id: number; number: string } | null
  allocations: number[]
}

export const postIntent = (database: Handle, actor: Actor, { what, ask }: Ask, key?: Idempotency) =>
  perform(database, actor, what, ask, key) as Promise<PostedItems>

export const proofOf = (database: Handle, { what, ask }: Ask) => prove(database, SAM, what, ask)

type Right = Omit<z.input<typeof putRightCommand.input>, 'itemId'>
export const putReceiptRight = (database: Handle, actor: Actor, itemId: number, ask: Right) =>
  perform(database, actor, putRightCommand, { ...ask, itemId })
export const previewPutRight = (database: Handle, actor: Actor, itemId: number, ask: Right) =>
  prove(database, actor, putRightCommand, { ...ask, itemId })

export async function receiveSundry(
  database: Handle,
  actor: Actor,
  ask: z.input<typeof sundryCommand.input>,
) {
  return readSundry(database, (await perform(database, actor, sundryCommand, ask)).id)
}
export async function voidSundry(database: Handle, actor: Actor, id: number, reason: string) {
  await perform(database, actor, sundryVoidCommand, { id, reason })
  return readSundry(database, id)
}

export const previewSlip = (database: Handle, ask: z.input<typeof slipCommand.input>) =>
  prove(database, SAM, slipCommand, ask)
export const previewVoid = (database: Handle, id: number, date: string) =>
  prove(database, SAM, slipVoidCommand, { id, date })
