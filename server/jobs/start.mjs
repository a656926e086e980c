// Entry of the worker thread: TypeScript is loaded as it stands, the same source as everywhere else.
import { register } from 'tsx/esm/api'

register()
await import('./worker.ts')
