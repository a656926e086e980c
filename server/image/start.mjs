// Entry of the thread that keeps the ledger in memory: TypeScript as it stands, as everywhere else.
import { register } from 'tsx/esm/api'

register()
await import('./keeper.ts')
