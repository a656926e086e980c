import { execFileSync } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/*
 * The pictures of the README show what there is: none is blank, and each is linked. What a picture shows can
 * only be seen by looking.
 */

const FOLDER = 'docs/screenshots'
/** Pixels: a telephone's. */
const NARROWEST = 390
/** A blank page has a handful of colours; letters with soft edges, bars and a Card have more than this. */
const PLAIN = 1000

interface Seen {
  file: string
  width: number
  colours: number
}

const pictures = readdirSync(FOLDER).filter(f => f.endsWith('.png'))

test('there are pictures, fewer than twenty, and the README links each', () => {
  const readme = readFileSync('README.md', 'utf8')
  expect(pictures.length).toBeGreaterThan(10)
  expect(pictures.length).toBeLessThan(20)
  for (const p of pictures) expect(readme).toContain(`${FOLDER}/${p}`)
})

test('each shows something', () => {
  const files = pictures.map(name => join(FOLDER, name))
  const told = execFileSync(process.execPath, ['tests/core/colours.mjs', ...files], { encoding: 'utf8' })
  for (const { file, width, colours } of JSON.parse(told) as Seen[]) {
    expect(`${file} ${width >= NARROWEST}`).toBe(`${file} true`)
    expect(`${file} ${colours > PLAIN}`).toBe(`${file} true`)
  }
})

/** Which screen a picture shows: its own source, without what all screens share. */
const SHOWS: Record<string, string[]> = {
  'today.png': ['app/pages/index.vue', 'app/components/today'],
  'aging.png': ['app/pages/aging/index.vue'],
  'factoring.png': ['app/pages/factoring', 'app/components/factoring/ScheduleList.vue'],
  'bad-debts.png': ['app/components/impairment/AllowanceSheet.vue'],
  'exposure.png': ['app/pages/exposure/index.vue', 'app/components/exposure/ConcentrationPicture.vue'],
  'sign-off.png': ['app/pages/sign-off'],
  'master.png': ['app/pages/accounts/[[]number[]]/master.vue', 'app/components/accounts/MasterForm.vue'],
  'refunds.png': ['app/pages/refunds', 'app/components/refunds/CreditsToRefund.vue'],
  'forecast.png': ['app/pages/forecast', 'app/components/forecast/WeekTable.vue'],
  'accounts.png': ['app/pages/accounts/index.vue', 'app/components/views'],
  'measures.png': ['app/pages/measures', 'app/components/measures'],
  'review.png': ['app/pages/review', 'app/components/review'],
  'call-list.png': ['app/pages/call-list', 'app/components/callList'],
  'inbox.png': ['app/pages/inbox'],
  'reminders.png': ['app/pages/reminders/[[]id[]].vue', 'app/components/reminders/NoticeTable.vue'],
  'account.png': ['app/pages/accounts/[[]number[]]/index.vue'],
  'bank.png': ['app/pages/banking/index.vue'],
  'tick-sheet.png': ['app/pages/receipts/tick-sheet.vue'],
}

/** When something was last committed, seconds; undefined where there is no history to ask. */
function committed(paths: readonly string[]): number | undefined {
  try {
    const told = execFileSync('git', ['log', '-1', '--format=%ct', '--', ...paths], { encoding: 'utf8' })
    return told.trim() ? Number(told) : undefined
  } catch {
    return undefined
  }
}

test.each(Object.entries(SHOWS).filter(([name]) => pictures.includes(name)))(
  '%s is not older than its screen',
  (name, sources) => {
    const [picture, screen] = [committed([join(FOLDER, name)]), committed(sources)]
    // Without a history, as in an archive, there is nothing to compare.
    if (picture === undefined || screen === undefined) return
    expect(picture).toBeGreaterThanOrEqual(screen)
  },
)
