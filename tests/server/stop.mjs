import { rmSync } from 'node:fs'

export default async function stop() {
  const { folder, server } = globalThis.bilancioTest
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
}
