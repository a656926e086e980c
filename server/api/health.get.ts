import { today } from '~~/contract/today'

export default endpoint(today.health, async ({ database }) => {
  await database.select('SELECT 1')
  return { status: 'ok', database: 'ok', version: '0.1.0' }
})
