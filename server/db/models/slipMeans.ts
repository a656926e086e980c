import { optional, table, whole } from './columns'

/** What is on a slip. */
export const slipMeans = table('slip_means', ['slip_id', 'means_id'], {
  slip_id: whole(''),
  means_id: whole(''),
  live: optional(whole('1 while the slip stands, null after: nothing is on two live slips')),
})
