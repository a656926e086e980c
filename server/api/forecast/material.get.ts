import { stringify } from 'devalue'
import { forecast } from '~~/contract/forecast'
import { readMaterial } from '~~/server/services/forecast/forecast'

/** As devalue text: numbers stay in their typed arrays. */
export default endpoint(forecast.material, async ({ event, database, query }) => {
  setHeader(event, 'content-type', 'text/plain; charset=utf-8')
  return stringify(await readMaterial(database, query))
})
