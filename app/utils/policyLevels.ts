/** What of a level of a reminder policy is a number of days. */
export const LEVEL_DAYS = [
  { of: 'days', label: 'Due from days late', least: 1 },
  { of: 'sincePrevious', label: 'Days since the notice before', least: 0 },
  { of: 'deadlineDays', label: 'Payable within days', least: 1 },
] as const
