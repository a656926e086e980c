import { today } from '~~/contract/today'
import { openapiDocument } from '~~/contract/openapi'

export default endpoint(today.openapi, () => openapiDocument())
