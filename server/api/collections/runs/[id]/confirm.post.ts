import { collections } from '~~/contract/collections'
import { confirmCollection } from '~~/server/services/collections/confirm'
import { queueJob } from '~~/server/services/jobs/jobs'

export default endpoint(collections.confirm, ({ database, actor, params, body, idempotency }) =>
  confirmCollection(database, actor, params.id, body.version, idempotency, (db, personId, ask) =>
    queueJob(db, personId, 'collections-confirm', ask, Buffer.alloc(0)),
  ),
)
