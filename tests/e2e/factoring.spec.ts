import { expect, press, signIn, test } from './base'

/* Invoices for a factor, from the keyboard: offered, taken back, and what the terms leave out. */

test('invoices are offered to a factor, one is kept out, and the schedule is taken back', async ({
  page,
}) => {
  await signIn(page.request, 'treasurer')
  await page.goto('/factoring')
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toContainText('FS-00001')
  await press(page, 'Enter')
  await expect(page.locator('main')).toContainText('with the factor')
  await press(page, '.')
  const foot = page.locator('[data-test=offer]')
  await expect(foot).toContainText(/[1-9]\d* invoices/)
  const before = Number(/(\d+) invoices/.exec(await foot.innerText())![1])
  await press(page, 'Space')
  await expect(foot).toContainText(`${before - 1} invoices`)
  await press(page, 'l')
  await expect(page.locator('main')).toContainText('With a factor already')
  await press(page, 'l')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText(
    'FS-00002 was given to Tern Receivables Finance',
  )
  await expect(rows.first()).toContainText('FS-00002')
  await press(page, 'Enter')
  await page.getByRole('button', { name: 'Take it back' }).click()
  await page.getByLabel('Why it is taken back').fill('the terms changed')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-test=said]')).toContainText('FS-00002 is taken back')
  await expect(rows.first()).toContainText('taken back')
})

test('terms are changed by who may, and what cannot be is told', async ({ page }) => {
  await signIn(page.request, 'supervisor')
  await page.goto('/factoring?part=factors')
  const share = page.getByLabel('Share of one debtor')
  await share.fill('20')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.locator('[data-test=said]')).toContainText('Terms saved')
  await page.getByLabel('Limit in all').fill('')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('share of the limit needs a limit')
})
