import AxeBuilder from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { SETUP_PARTS } from '../../app/utils/setupParts'
import { expect, signIn, test } from './base'

const VIEWS = [
  '/',
  '/banking',
  '/aging',
  '/aging/compare',
  '/receipts/batches',
  '/receipts/tick-sheet',
  '/receipts/sundry',
  '/accounts',
  '/accounts/2001',
  '/accounts/2001/master',
  '/accounts/new',
  '/accounts/2001/timeline',
  '/call-list',
  '/promises',
  '/disputes',
  '/inbox',
  '/messages',
  '/statements',
  '/exposure',
  '/exposure/2053',
  '/sign-off',
  '/review',
  '/review/2001',
  '/measures',
  '/receipts',
  '/receipts/new?customer=2001',
  '/banking/tray',
  '/reminders',
  '/refunds',
  '/refunds?part=refunds',
  '/refunds?part=cheques',
  '/refunds?part=files',
  '/refunds?part=unclaimed',
  '/factoring',
  '/factoring?part=close',
  '/factoring?part=factors',
  '/forecast',
  '/forecast?part=customers',
  '/forecast?part=compared',
  '/forecast?part=planned',
  '/forecast?part=tested',
  '/impairment',
  '/impairment?part=written',
  '/impairment?part=back',
  '/impairment?part=aside',
  '/impairment?part=report',
  '/collections',
  '/collections/payments',
  '/collections/payments?part=all',
  '/collections/mandates',
  '/reminders/worked',
  '/reminders/dry-run',
  '/reminders/handovers',
  '/reminders/claims?customer=2003',
  '/outbox',
  '/rates',
  '/books/journal',
  '/books/trial-balance',
  '/documents/import',
  ...SETUP_PARTS.map(p => `/setup/${p.key}`),
]

/** Rules of WCAG 2.2 AA, as far as a machine can check them. */
const RULES = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']

/** In the dark only the tones differ: what else a rule asks for is checked in the light. */
async function brokenRules(page: Page, view: string, scheme: 'light' | 'dark'): Promise<string[]> {
  // No view has frames: it is looked at in its own page, without another one for the sums.
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] })
  const asked = scheme === 'light' ? axe.withTags(RULES) : axe.withRules(['color-contrast'])
  const { violations } = await asked.analyze()
  return violations.map(
    v => `${view}: ${v.id} (${scheme}), ${v.nodes.length} ×, ${v.nodes[0]!.target.join(' ')}`,
  )
}

async function look(page: Page, view: string, broken: string[]): Promise<void> {
  for (const scheme of ['light', 'dark'] as const) {
    await page.emulateMedia({ colorScheme: scheme, reducedMotion: 'reduce' })
    await expect(page.locator('html')).toHaveClass(scheme === 'dark' ? /dark/ : /^((?!dark).)*$/)
    broken.push(...(await brokenRules(page, view, scheme)))
  }
}

const start = (page: Page) => page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' })

/** Each stands without errors, nothing runs over its edge, no rule of access is broken. */
async function lookAtAll(page: Page, views: string[]): Promise<void> {
  const broken: string[] = []
  await signIn(page.request, 'administrator')
  for (const view of views) {
    await start(page)
    await page.goto(view)
    await expect(page.locator('main h1')).toBeVisible()
    await page.waitForLoadState('networkidle')
    const overflow = await page.evaluate(() => [
      document.documentElement.scrollWidth - document.documentElement.clientWidth,
      document.body.scrollHeight - window.innerHeight,
    ])
    expect(overflow, view).toEqual([0, 0])
    await look(page, view, broken)
  }
  expect(broken).toEqual([])
}

test('before anybody is signed in, no rule of access is broken in light or dark', async ({ page }) => {
  const broken: string[] = []
  await start(page)
  await page.goto('/sign-in')
  await expect(page.getByLabel('Password')).toBeVisible()
  await look(page, '/sign-in', broken)
  expect(broken).toEqual([])
})

/** So many views at a time, so that one that is slow is found among few. */
const AT_A_TIME = 10
for (let first = 0; first < VIEWS.length; first += AT_A_TIME) {
  const views = VIEWS.slice(first, first + AT_A_TIME)
  test(`${views[0]} to ${views.at(-1)} stand without errors, within their edges, open to all in light and dark`, async ({
    page,
  }) => {
    test.setTimeout(240_000)
    await lookAtAll(page, views)
  })
}
