import { Worker } from 'node:worker_threads'
import { resolve } from 'node:path'
import { openMailbox } from '../../simulators/mailbox'
import { faultOf, log } from '../log'
import { mailboxFolder } from '../wiring'

/**
 * Starts the simulated mailbox, unless a real SMTP server is named, and the worker thread; ends with the
 * process that started us.
 */
export default defineNitroPlugin(nitro => {
  if (process.send) process.on('disconnect', () => process.exit(0))
  if (!process.env.DATABASE_URL) throw new Error('DATABASE_URL is not set: start with npm start')
  let stopped = false
  let worker: Worker | undefined
  const start = (): void => {
    worker = new Worker(resolve('server/jobs/start.mjs'), { env: process.env as Record<string, string> })
    worker.on('error', error => log.error(faultOf(error), 'worker'))
    worker.on('exit', () => {
      if (!stopped) setTimeout(start, 1000)
    })
  }
  const ready = process.env.BILANCIO_SMTP
    ? Promise.resolve(undefined)
    : openMailbox(mailboxFolder()).then(mailbox => {
        process.env.BILANCIO_SMTP = mailbox.url
        return mailbox
      })
  ready.then(start, error => log.error(faultOf(error), 'mailbox'))
  nitro.hooks.hook('close', async () => {
    stopped = true
    await worker?.terminate()
    await (await ready)?.close()
  })
})
