import { rmSync } from 'node:fs'
import { startApplication, stopApplication } from './application'

/** The built application with the demo, for all tests; stopped at the end. */
export default async function setup() {
  const app = await startApplication()
  if (!app.output().includes('ready')) throw new Error(`the application did not start:\n${app.output()}`)
  process.env.E2E_URL = app.url
  process.env.E2E_DATA = app.data
  return async () => {
    await stopApplication(app)
    rmSync(app.data, { recursive: true, force: true })
  }
}
