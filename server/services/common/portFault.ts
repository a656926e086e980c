import type { Handle } from '../../db/handle'

/** What of outside we wait for. */
export type PortName = 'mail in'

export interface PortFault {
  says: string
  since: string
}

/** Why a port cannot be reached, and since when; null while it answers. */
export async function portFault(database: Handle, port: PortName): Promise<PortFault | null> {
  const [row] = await database.find('port_fault', { port }, { columns: ['says', 'since'] })
  return row ?? null
}

/**
 * Keeps whether a port answers: told with every try, written when that changed. The instant stays that of
 * the first try in vain.
 */
export function portKeeper(database: Handle, port: PortName) {
  let last: string | null | undefined
  return async (says: string | null): Promise<void> => {
    if (says === last) return
    if (says === null) await database.remove('port_fault', { port })
    else await database.put('port_fault', [{ port, says: says.slice(0, 300) }], ['says'])
    last = says
  }
}
