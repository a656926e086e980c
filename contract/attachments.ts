import { z } from 'zod'
import { bytes, id } from './common'
import { operation } from './operation'

const number = z.string().min(1).max(32)
/** Larger ones are refused. */
export const MOST_ATTACHMENT_BYTES = 10 * 1024 * 1024

const attachment = z.object({
  id: z.int(),
  name: z.string(),
  type: z.string(),
  bytes: z.int(),
  text: z.string(),
  date: z.string(),
  by: z.string(),
})
export type Attachment = z.infer<typeof attachment>

/** Files on an account: PDF, pictures, mails. */
export const attachments = {
  list: operation({
    method: 'get',
    path: '/api/accounts/{number}/attachments',
    summary: 'Files on an account, the newest first',
    ability: 'read',
    params: z.object({ number }),
    response: z.object({ items: z.array(attachment) }),
  }),
  add: operation({
    method: 'post',
    path: '/api/accounts/{number}/attachments',
    summary: 'Put a file on an account: a PDF, a PNG or JPEG picture, or a mail (EML); at most 10 MB',
    ability: 'notes.write',
    params: z.object({ number }),
    query: z.object({
      name: z.string().trim().min(1, { error: 'name the file' }).max(160),
      text: z.string().max(300).default(''),
    }),
    ...bytes,
    response: attachment,
    status: 201,
  }),
  file: operation({
    method: 'get',
    path: '/api/attachments/{id}',
    summary: 'A file as it was put there',
    ability: 'read',
    params: z.object({ id }),
    responseType: 'application/octet-stream',
  }),
  remove: operation({
    method: 'delete',
    path: '/api/attachments/{id}',
    summary: 'Take a file off the account; by who put it there, or a supervisor',
    ability: 'notes.write',
    params: z.object({ id }),
    response: z.object({ removed: z.boolean() }),
  }),
}
