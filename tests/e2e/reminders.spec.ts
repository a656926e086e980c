import type { APIRequestContext } from '@playwright/test'
import { expect, press, signIn, test } from './base'

interface Balance {
  items: { number: string; debit: number; credit: number }[]
}

/** All that a run may change: accounts of the ledger, aging, and the levels of an account. */
async function position(request: APIRequestContext) {
  const get = async (path: string) => (await (await request.get(path)).json()) as unknown
  const aging = (await get('/api/aging?limit=500')) as { items: object[]; totals: object }
  const items = (await get('/api/accounts/2003/items?state=open')) as {
    items: { number: string; level: number; open: number }[]
  }
  const { items: accounts } = (await get('/api/books/trial-balance')) as Balance
  return {
    balance: accounts.map(a => [a.number, a.debit - a.credit] as const).filter(([, amount]) => amount !== 0),
    aging: { items: aging.items, totals: aging.totals },
    levels: items.items.map(i => [i.number, i.level, i.open]),
  }
}

test('a weekly run from proposal to sent letters, by keyboard alone; withdrawn it leaves the ledger as before', async ({
  page,
}) => {
  test.setTimeout(120_000)
  await signIn(page.request, 'controller')
  const before = await position(page.request)
  await page.goto('/reminders')
  await expect(page.getByLabel('Policy').locator('option')).toHaveCount(2)
  const started = Date.now()
  await press(page, 'Control+Enter')
  await expect(page.getByRole('heading', { name: /Reminder run/ })).toBeVisible()
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toBeVisible()
  const tab = page.getByRole('button', { name: /^Notices/ })
  const all = Number((await tab.textContent())!.match(/\d+/)![0])
  expect(all).toBeGreaterThan(40)

  // The first is left out with a reason, and said so; the second goes without its fee.
  await press(page, 'ArrowDown', 'ArrowUp', 'Space')
  await expect(page.locator('#edit-text')).toBeFocused()
  await page.keyboard.type('we meet on Friday')
  await press(page, 'Enter')
  await expect(rows.first()).toContainText('left out: we meet on Friday')
  await expect(page.locator('[data-test=run-proof]')).toBeVisible()
  await expect(page.locator('main tfoot')).toContainText(`${all - 1} notices to send`)
  // Every notice opens to its items, and interest to its periods.
  const costly = rows.filter({ hasText: /2 → 3/ }).first()
  await costly.click()
  await press(page, 'Enter')
  await expect(page.getByRole('table', { name: 'Items of the notice' })).toBeVisible()
  await expect(page.getByRole('table', { name: 'Interest by period' })).toContainText('%')
  await press(page, 'f')
  await expect(rows.filter({ hasText: /2 → 3/ }).first()).toContainText('no fee')
  // What is left out has its reason in every line.
  await press(page, 'o')
  await expect(page.getByLabel('Reason')).toBeVisible()
  const told = page.locator('main tbody tr.link td:nth-child(4)')
  await expect(told.first()).toBeVisible()
  const reasons = await told.allTextContents()
  expect(reasons.length).toBeGreaterThan(5)
  for (const reason of reasons) expect(reason.trim().length).toBeGreaterThan(8)
  await press(page, 'o')
  await expect(rows.first()).toBeVisible()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText(`${all - 1} notices out`, { timeout: 30_000 })
  expect(Date.now() - started).toBeLessThan(120_000)
  await expect(rows.nth(1)).toContainText(/N-\d{5}/)

  // A notice alone, then the whole run.
  await rows.nth(1).click()
  await press(page, 'w')
  await expect(page.locator('#withdraw-why')).toBeFocused()
  await page.keyboard.type('paid by phone')
  await press(page, 'Enter')
  await expect(rows.nth(1)).toContainText('withdrawn')
  await press(page, 'W')
  await expect(page.locator('#withdraw-why')).toBeFocused()
  await page.keyboard.type('sent too early')
  await press(page, 'Enter')
  await expect(page.locator('main .sheet-head')).toContainText('withdrawn', { timeout: 60_000 })
  expect(await position(page.request)).toEqual(before)
})

test('a dry-run of another policy draws its weeks beside what was sent; what worked tells shares', async ({
  page,
}) => {
  test.setTimeout(90_000)
  await signIn(page.request, 'controller')
  await page.goto('/reminders/dry-run')
  await expect(page.getByLabel('Due from days late, level 1', { exact: true })).toHaveValue('5')
  await page.getByLabel('Due from days late, level 1', { exact: true }).fill('10')
  await press(page, 'Control+Enter')
  const table = page.getByRole('table', { name: 'Dry-run beside what was sent' })
  await expect(table).toBeVisible({ timeout: 60_000 })
  await expect(table).toContainText('Was really sent')
  expect(await page.locator('figure rect').count()).toBeGreaterThan(20)
  await page.goto('/reminders/worked')
  await expect(page.getByRole('table', { name: 'Cash after each level' })).toContainText('alone')
})

test('a fee is given up with its Proof; claims by law open to their periods', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/accounts/2003')
  const rows = page.locator('main tbody tr.link')
  const fee = rows.filter({ hasText: /F-\d{5}/ }).first()
  await fee.click()
  await press(page, 'g')
  await expect(page.getByLabel('Reason of the goodwill')).toBeFocused()
  await page.keyboard.type('first time')
  await expect(page.locator('[data-test=proof]')).toContainText('Reminder fees')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('waits for a second person')
  await page.goto('/accounts/2003')
  await expect(rows.first()).toBeVisible()
  await press(page, 'k')
  await expect(page.getByRole('heading', { name: 'Claims by law' })).toBeVisible()
  await expect(page.locator('main .sheet-head')).toContainText('Directive 2011/7/EU')
  await rows.first().click()
  await press(page, 'Enter')
  await expect(page.getByRole('table', { name: 'Interest by period' })).toContainText('%')
})
