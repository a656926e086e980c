import { db } from '../db/connection'
import { imageInThread, keepImage } from '../image'

/** The ledger is read into memory at the start; until it is there, and without room for it, tables answer. */
export default defineNitroPlugin(nitro => {
  const keeper = imageInThread()
  keepImage(db(), keeper)
  nitro.hooks.hook('close', () => keeper.close())
})
