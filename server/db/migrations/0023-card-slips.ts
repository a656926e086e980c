/** What the card terminal answered to a refund, and the job that confirms a large collection. */
export const name = '0023-card-slips'

export const up = [
  `ALTER TABLE refund ADD COLUMN card_slip VARCHAR(40) NOT NULL DEFAULT ''`,
  'ALTER TABLE collection_run ADD COLUMN job_id INT NULL',
]
