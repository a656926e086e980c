import { forecast } from '~~/contract/forecast'
import { exportForecast } from '~~/server/services/forecast/forecast'

export default endpoint(forecast.file, async ({ event, database, query }) =>
  answerFile(event, await exportForecast(database, query)),
)
