// Entry of the thread that works forecasts out: TypeScript as it stands, as everywhere else.
import { register } from 'tsx/esm/api'

register()
await import('./thread.ts')
