import { factoring } from '~~/contract/factoring'
import { takeFactorFiles } from '~~/server/services/factoring/answers'

export default endpoint(factoring.inbox, ({ database, actor }) => takeFactorFiles(database, actor))
