import { today } from '~~/contract/today'
import { select } from '~~/server/db/connection'

export default endpoint(today.health, async ({ database }) => {
  await select(database, 'SELECT 1')
  return { status: 'ok', database: 'ok', version: '0.1.0' }
})
