import { faultOf, log } from '../log'
import { db } from '../db/connection'
import { readSettings } from '../db/settings'
import { readHealth } from '../services/health/health'
import { readHistory } from '../services/today/history'
import { customerDirectory } from '../services/banking/directory'

/**
 * Reads at the start what is kept: the customers for the matching, so that the first bank line opens like any
 * other, and the sums of the months for the first screen. Health opens its connection, before everybody else
 * wants one.
 */
export default defineNitroPlugin(() => {
  const warm = async () => {
    await readHealth()
    const { versions } = await readSettings(db())
    await customerDirectory(db(), versions.customers)
    await readHistory(db(), {})
  }
  warm().catch(error => log.error(faultOf(error), 'warm'))
})
