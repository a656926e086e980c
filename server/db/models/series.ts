import { table, text, whole } from './columns'

/** Number series without gaps. */
export const series = table('series', ['name'], {
  name: text(32, ''),
  prefix: text(16, ''),
  next: whole('the next number'),
  width: whole('digits at least'),
})
