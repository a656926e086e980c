import { longText, table, text } from './columns'

/** Settings by name. */
export const setting = table('setting', ['name'], {
  name: text(64, ''),
  value: longText('JSON'),
})
