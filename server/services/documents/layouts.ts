import { createHash } from 'node:crypto'
import type { z } from 'zod'
import { CUSTOMER_COLUMNS, DOCUMENT_COLUMNS, importMap } from '../../../contract/documents'
import type { ImportConverted, ImportLook } from '../../../contract/documents'
import { ORDER_COLUMNS } from '../../../contract/exposure'
import type { ImportKind, ImportMap } from '../../../formats/table'
import type { Handle } from '../../db/handle'
import { parseFile } from '../../parse'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

/** Our columns by kind, those included that a table may have instead of the amount. */
const COLUMNS: Record<ImportKind, readonly string[]> = {
  customers: CUSTOMER_COLUMNS,
  documents: [...DOCUMENT_COLUMNS, 'debit', 'credit'],
  orders: ORDER_COLUMNS,
}

/** Tables of the same columns are laid out the same, whatever their rows. */
const signatureOf = (names: readonly string[]) =>
  createHash('sha256')
    .update(JSON.stringify(names.map(n => n.trim().toLowerCase())))
    .digest('hex')

async function remembered(database: Handle, names: readonly string[]): Promise<ImportMap | undefined> {
  const [row] = await database.find('import_layout', { signature: signatureOf(names) }, { columns: ['map'] })
  return row && (JSON.parse(row.map) as ImportMap)
}

/** What a table may hold: as it was said of one of these columns before, else a first idea. */
export async function lookAtTable(
  database: Handle,
  bytes: Uint8Array,
  kind: ImportKind | undefined,
): Promise<ImportLook> {
  const { names, map, ...look } = await parseFile('look', bytes, { kind }, 'Not a table')
  const before = await remembered(database, names)
  const known = before && (kind === undefined || before.kind === kind) ? before : undefined
  // Where the names stand may differ from file to file.
  return {
    ...look,
    map: known ? { ...known, headerRow: map.headerRow } : map,
    remembered: known !== undefined,
    dateUnsure: look.dateUnsure && known === undefined,
  }
}

/** A map as it comes with a request. Throws ProblemError. */
export function mapFrom(text: string): ImportMap {
  let given: unknown
  try {
    given = JSON.parse(text)
  } catch {
    given = undefined
  }
  const parsed = importMap.safeParse(given)
  const wrong = (message: string) =>
    new ProblemError(400, 'Not a map', message, [{ path: 'map', message, satisfy: 'as `look` answers it' }])
  if (!parsed.success) throw wrong('the map is not of the form that is asked for')
  const ours = COLUMNS[parsed.data.kind]
  const unknown = [...Object.keys(parsed.data.columns), ...Object.keys(parsed.data.fixed)].find(
    c => !ours.includes(c),
  )
  if (unknown) throw wrong(`there is no column "${unknown}"`)
  return parsed.data satisfies z.output<typeof importMap>
}

/** A table in our own columns; remembered when asked for. */
export async function convertTable(
  database: Handle,
  actor: Actor,
  bytes: Uint8Array,
  map: ImportMap,
  remember: boolean,
): Promise<ImportConverted> {
  const { names, ...converted } = await parseFile('convert', bytes, { map }, 'Not a table')
  if (remember)
    await database.run(
      `INSERT INTO import_layout (signature, map, person_id) VALUES (:signature, :map, :person)
        ON DUPLICATE KEY UPDATE map = :map, person_id = :person, at = UTC_TIMESTAMP(3)`,
      { signature: signatureOf(names), map: JSON.stringify(map), person: actor.id },
    )
  return converted
}
