// Entry of a parsing thread: TypeScript is loaded as it stands, the same source as everywhere else.
import { register } from 'tsx/esm/api'

register()
const { parse } = await import('./parse.ts')
export default parse
