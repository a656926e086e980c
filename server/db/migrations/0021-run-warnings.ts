/** What a proposed notice warns of is counted, so that sums of a run need not read its notices. */
export const name = '0021-run-warnings'

export const up = [
  'ALTER TABLE run_notice ADD COLUMN warnings TINYINT NOT NULL DEFAULT 0',
  `UPDATE run_notice SET warnings = JSON_LENGTH(notice, '$.warnings') WHERE notice NOT LIKE '%"warnings":[]%'
    AND JSON_EXISTS(notice, '$.warnings')`,
]
