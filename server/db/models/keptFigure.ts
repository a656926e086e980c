import { day, instant, longText, table, text } from './columns'

/** A count of the first screen that a large ledger cannot make while somebody waits. */
export const keptFigure = table('kept_figure', ['name'], {
  name: text(40, ''),
  as_of: day('business date it holds for'),
  value: longText('as JSON'),
  at: instant('UTC'),
})
