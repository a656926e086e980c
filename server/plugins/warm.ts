import { faultOf, log } from '../log'
import { db } from '../db/connection'
import { readSettings } from '../db/settings'
import { customerDirectory } from '../services/banking/directory'

/** Reads the customers for the matching at the start, so that the first bank line opens like any other. */
export default defineNitroPlugin(() => {
  const warm = async () => {
    const { versions } = await readSettings(db())
    await customerDirectory(db(), versions.customers)
  }
  warm().catch(error => log.error(faultOf(error), 'warm'))
})
