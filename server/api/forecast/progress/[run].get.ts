import { forecast } from '~~/contract/forecast'
import { progressOf } from '~~/server/services/forecast/runs'

export default endpoint(forecast.progress, ({ params }) => progressOf(params.run))
