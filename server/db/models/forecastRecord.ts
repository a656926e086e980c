import { day, instant, longText, table } from './columns'

/** The forecast of a week as it was told on its first day. Never changed. */
export const forecastRecord = table('forecast_record', ['as_of'], {
  as_of: day('of the forecast'),
  body: longText('weeks, sources and balance, JSON'),
  at: instant('when, UTC'),
})
