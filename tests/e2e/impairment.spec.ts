import { expect, press, signIn, test } from './base'

/* Debts that are lost, from the keyboard: written off, signed, and a dividend that comes after all. */

test('a dividend of an insolvency finds the debts that were written off', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/impairment?part=written')
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toContainText('Insolvency')
  await expect(page.locator('main tfoot')).toContainText('Insolvency')
  await press(page, '.')
  await expect(rows).toHaveCount(1)
  await expect(page.locator('[data-test=proof]')).toContainText('4920 Debts recovered')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('RC-00001')
  await expect(rows).toHaveCount(0)
})

test('small balances are written off together; the reason and the commission are asked for', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/impairment')
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toBeVisible()
  const post = page.locator('[data-test=post]')
  await press(page, 'Space')
  await expect(page.locator('main tfoot')).toContainText('1 item chosen')
  await press(page, 'w')
  await page.keyboard.type('not worth a letter')
  await expect(post).toBeDisabled()
  await page.getByLabel('Commission').selectOption('kept')
  await expect(page.locator('[data-test=proof]')).toContainText('6860 Bad debts')
  await expect(post).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText(/Written off as W-\d+/)
  // More than one person may decide waits for a second.
  await page.getByLabel('Show').selectOption('all')
  await page.getByLabel('Find an item').fill('26-')
  await expect(rows.first()).toContainText('26-')
  await page.locator('main h1').click()
  await press(page, 'Space', 'w')
  await page.keyboard.type('the debtor is gone')
  await expect(post).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('Sign-off')
})
