import type { H3Event } from 'h3'

/** Aborted when whoever asked is gone before the answer. */
export function goneSignal(event: H3Event): AbortSignal {
  const controller = new AbortController()
  const { res } = event.node
  res.once('close', () => {
    if (!res.writableEnded) controller.abort()
  })
  return controller.signal
}
