import { faultOf, log } from '../log'
import { db } from '../db/connection'
import { readSettings } from '../db/settings'
import { readHistory } from '../services/today/history'
import { customerDirectory } from '../services/banking/directory'

/**
 * Reads at the start what is kept: the customers for the matching, so that the first bank line opens like any
 * other, and the sums of the months for the first screen. Health is asked once, so that its code and its
 * connection are there before everybody wants one.
 */
export default defineNitroPlugin(nitro => {
  const warm = async () => {
    const { status } = await nitro.localFetch('/api/health', { headers: { host: 'localhost' } })
    if (status !== 200) log.warn({ status }, 'warm: health')
    const { versions } = await readSettings(db())
    await customerDirectory(db(), versions.customers)
    await readHistory(db(), {})
  }
  warm().catch(error => log.error(faultOf(error), 'warm'))
})
