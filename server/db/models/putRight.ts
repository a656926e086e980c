import { instant, table, whole } from './columns'

/** A receipt put right, and the one in its place. */
export const putRight = table('put_right', ['old_item_id'], {
  old_item_id: whole(''),
  new_item_id: whole(''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
