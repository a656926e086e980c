import { z } from 'zod'
import { cell } from '../../db/rows'
import { now } from '../../db/where'
import { createHash } from 'node:crypto'
import { mkdirSync, readFileSync, renameSync, writeFileSync, existsSync } from 'node:fs'
import { join } from 'node:path'
import fileType from 'file-type'
import { MOST_ATTACHMENT_BYTES, type Attachment } from '../../../contract/attachments'
import { can } from '../../../core/people'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { dataFolder } from '../../wiring'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Actor, Scope } from '../people/scope'

/** What may be kept, with what a browser is told that it is. What shows itself is a picture or a PDF. */
const TYPES: Record<string, { ending: string; inline: boolean }> = {
  'application/pdf': { ending: '.pdf', inline: true },
  'image/png': { ending: '.png', inline: true },
  'image/jpeg': { ending: '.jpg', inline: true },
  'message/rfc822': { ending: '.eml', inline: false },
}
const KEPT = 'PDF, PNG, JPEG or a mail (EML)'

/** A file lies under its hash: the same bytes once, and no name of anybody's is ever a path. */
const fileOf = (hash: string) => join(dataFolder(), 'attachments', hash.slice(0, 2), hash)

/** What the bytes are, whatever they are called. */
async function typeOf(bytes: Buffer): Promise<string | null> {
  const found = await fileType.fromBuffer(bytes)
  if (found) return found.mime in TYPES ? found.mime : null
  // A mail begins with its header fields (RFC 5322, 2.2).
  const start = bytes.subarray(0, 4000).toString('latin1')
  const isMail = /^([\x21-\x39\x3b-\x7e]+:[^\r\n]*\r?\n([ \t][^\r\n]*\r?\n)*){2,}/.test(start)
  return isMail && /^(from|received|return-path):/im.test(start) ? 'message/rfc822' : null
}

interface Row extends Attachment {
  hash: string
  personId: number
  customerNumber: string
}

const FILES = `SELECT a.id, a.name, a.type, a.bytes, a.text, a.on_date AS date, p.name AS \`by\`, a.hash,
    a.person_id AS personId, c.number AS customerNumber FROM attachment a JOIN person p ON p.id = a.person_id
    JOIN customer c ON c.id = a.customer_id WHERE a.removed_at IS NULL`
const shown = ({ hash: _, personId: __, customerNumber: ___, ...row }: Row): Attachment => row

const listAttachmentsRow = z.object({
  hash: cell.text,
  personId: cell.whole,
  customerNumber: cell.text,
  id: cell.whole,
  name: cell.text,
  type: cell.text,
  bytes: cell.whole,
  text: cell.text,
  date: cell.text,
  by: cell.text,
})

export async function listAttachments(database: Handle, number: string, scope: Scope) {
  const { id } = await findCustomer(database, number, scope)
  const rows = await database.rows(
    listAttachmentsRow,
    `${FILES} AND a.customer_id = :id ORDER BY a.id DESC LIMIT 200`,
    {
      id,
    },
  )
  return { items: rows.map(shown) }
}

async function rowOf(database: Handle, id: number, scope: Scope): Promise<Row> {
  const [row] = await database.rows(
    listAttachmentsRow,
    `${FILES} AND a.id = :id ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`file ${id}`)
  return row
}

/** Puts a file on an account. Its bytes are written whole before anything says that it is there. */
export async function addAttachment(
  database: Handle,
  actor: Actor,
  number: string,
  file: { name: string; text: string; bytes: Buffer },
  scope: Scope,
): Promise<Attachment> {
  const customer = await findCustomer(database, number, scope)
  const { bytes } = file
  const refuse = (status: number, title: string, message: string, satisfy: string) =>
    new ProblemError(status, title, `${message}: ${satisfy}`, [{ path: 'file', message, satisfy }])
  if (!bytes.length) throw refuse(422, 'Empty', 'the file is empty', 'choose another')
  if (bytes.length > MOST_ATTACHMENT_BYTES)
    throw refuse(
      413,
      'Too large',
      `the file has ${Math.ceil(bytes.length / 1024 / 1024)} MB`,
      'at most 10 MB',
    )
  const type = await typeOf(bytes)
  if (type === null) throw refuse(415, 'Not kept here', 'the file is none of the kinds that are kept', KEPT)
  const hash = createHash('sha256').update(bytes).digest('hex')
  const path = fileOf(hash)
  if (!existsSync(path)) {
    mkdirSync(join(path, '..'), { recursive: true })
    const unfinished = `${path}.${process.pid}.${Date.now()}`
    writeFileSync(unfinished, bytes)
    renameSync(unfinished, path)
  }
  const { today } = await readSettings(database)
  const name = file.name.replace(/[\u0000-\u001f/\\]/g, '_')
  const [id] = await database.insert('attachment', [
    {
      customer_id: customer.id,
      name,
      type,
      bytes: bytes.length,
      hash,
      text: file.text,
      on_date: today,
      person_id: actor.id,
    },
  ])
  await audit(database, actor.id, 'file', customer.number, null, name)
  return shown(await rowOf(database, id!, scope))
}

export interface Served {
  name: string
  type: string
  inline: boolean
  bytes: Buffer
}

export async function readAttachment(database: Handle, id: number, scope: Scope): Promise<Served> {
  const row = await rowOf(database, id, scope)
  const { ending, inline } = TYPES[row.type]!
  const name = row.name.toLowerCase().endsWith(ending) ? row.name : `${row.name}${ending}`
  return { name, type: row.type, inline, bytes: readFileSync(fileOf(row.hash)) }
}

export async function removeAttachment(
  database: Handle,
  actor: Actor,
  id: number,
  scope: Scope,
): Promise<{ removed: boolean }> {
  const row = await rowOf(database, id, scope)
  if (row.personId !== actor.id && !can(actor.role, 'policy.edit'))
    throw new ProblemError(
      403,
      'Not yours',
      `${row.by} put this file there: they or a supervisor take it off`,
    )
  await database.update('attachment', { removed_at: now() }, { id })
  await audit(database, actor.id, 'file', row.customerNumber, row.name, 'taken off')
  return { removed: true }
}
