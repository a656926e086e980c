import { setup } from '~~/contract/setup'
import { firstSteps } from '~~/server/services/setup/firstSteps'

export default endpoint(setup.firstSteps, ({ database }) => firstSteps(database))
