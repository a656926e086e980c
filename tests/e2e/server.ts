import { rmSync } from 'node:fs'
import { noteAnswers, readAnswers } from './answers'
import { launchApplication, stopApplication } from './application'

/**
 * The built application with the demo, for all tests that depend on the project `demo`; stopped at the end.
 * Its years of trade take a while to be posted: what has a world of its own need not wait.
 */
export default async function setup() {
  noteAnswers()
  const app = await launchApplication()
  process.env.E2E_URL = app.url
  process.env.E2E_DATA = app.data
  void app.ready.then(() => {
    if (!app.output().includes('ready')) console.error(`the application did not start:\n${app.output()}`)
  })
  return async () => {
    await stopApplication(app)
    rmSync(app.data, { recursive: true, force: true })
    readAnswers()
  }
}
