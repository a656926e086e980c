import { forecast } from '~~/contract/forecast'
import { listWhatIfs } from '~~/server/services/forecast/whatIfs'

export default endpoint(forecast.whatIfs, ({ database }) => listWhatIfs(database))
