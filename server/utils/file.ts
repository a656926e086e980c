import { setHeader, type H3Event } from 'h3'
import type { SheetFile } from '../services/common/sheet'

/** Answers a file to keep. */
export function answerFile(event: H3Event, file: SheetFile): Buffer {
  setHeader(event, 'content-type', file.type)
  setHeader(event, 'content-disposition', `attachment; filename="${file.name}"`)
  return file.bytes
}
