import { instant, key, table, text, whole } from './columns'

/** Who paid for whom, as people confirmed it. */
export const payerLearnt = table('payer_learnt', ['id'], {
  id: key(''),
  iban: text(34, 'of the payer'),
  name: text(160, 'of the payer'),
  customer_id: whole('the account'),
  times: whole('how often'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
