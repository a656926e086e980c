import { getHeader, type H3Event } from 'h3'
import { ProblemError } from '../services/common/problems'

/** What is read past the limit so that the sender still gets our answer; beyond, the connection is cut. */
const DRAIN = 256 * 1024 * 1024
const SECONDS = 120

/** The request body, bounded in size and time. */
export function boundedBody(event: H3Event, max: number): Promise<Buffer> {
  const request = event.node.req
  const tooLarge = () =>
    new ProblemError(413, 'Too large', `at most ${Math.round(max / 1024 / 1024)} MB: split the file`)
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = []
    let size = 0
    const timer = setTimeout(() => {
      reject(
        new ProblemError(408, 'Too slow', `the body did not arrive within ${SECONDS} seconds: send it again`),
      )
      request.destroy()
    }, SECONDS * 1000)
    request.on('data', (chunk: Buffer) => {
      size += chunk.length
      if (size <= max) chunks.push(chunk)
      else chunks.length = 0
      if (size > max + DRAIN) {
        reject(tooLarge())
        request.destroy()
      }
    })
    request.on('end', () => {
      clearTimeout(timer)
      if (size > max) reject(tooLarge())
      else resolve(Buffer.concat(chunks))
    })
    request.on('error', () => {
      clearTimeout(timer)
      reject(new ProblemError(400, 'Cut off', 'the body was cut off: send it again'))
    })
    if (Number(getHeader(event, 'content-length') ?? 0) > max + DRAIN) {
      clearTimeout(timer)
      reject(tooLarge())
    }
  })
}
