import { forecast } from '~~/contract/forecast'
import { compareWhatIfs } from '~~/server/services/forecast/whatIfs'

export default endpoint(forecast.compare, ({ database, query }) => compareWhatIfs(database, query))
