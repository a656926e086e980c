import { openDatabase } from '../server/db/connection'
import { Image } from '../server/image/image'
import { imageDifferences } from '../server/image/verify'
import { verifyLedger } from '../server/ledger/verify'

const database = openDatabase(process.env.DATABASE_URL!, 2)
const differences = [
  ...(await verifyLedger(database)),
  ...(await imageDifferences(database, new Image(database))),
]
for (const d of differences) console.log(`${d.what}: ${d.row}: expected ${d.expected}, found ${d.found}`)
console.log(
  differences.length
    ? `${differences.length} differences`
    : 'The ledger verifies: every projection, the ledger in memory and the tie-out equal what the postings say',
)
await database.close()
process.exitCode = differences.length ? 1 : 0
