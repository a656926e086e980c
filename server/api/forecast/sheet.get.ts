import { forecast } from '~~/contract/forecast'
import { forecastSheet } from '~~/server/services/forecast/sheet'

export default endpoint(forecast.sheet, async ({ event, database, query }) => {
  const { name, pdf } = await forecastSheet(database, query)
  setHeader(event, 'content-type', 'application/pdf')
  setHeader(event, 'content-disposition', `inline; filename="${name}"`)
  return pdf
})
