import { expect, press, signIn, test } from './base'

/** From the keyboard alone: whether to ship, what it would take, who asked and who signed. */
test('may an order go, what would it take, hold, ask for a release, sign it', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/')
  await expect(page.locator('main h1')).toBeVisible()
  await press(page, '/')
  await page.keyboard.type('Quernstone Foods')
  await expect(page.getByRole('option').first()).toContainText('Quernstone')
  await press(page, 'Enter')
  await expect(page.locator('main h1')).toContainText('Quernstone')
  await press(page, 'x')
  const total = page.locator('[data-test=exposure-total]')
  await expect(total).toBeVisible()

  await press(page, 'o')
  await page.keyboard.type('900000')
  const verdict = page.locator('[data-test=verdict]')
  await expect(verdict).toHaveText('No.')
  await expect(page.locator('[data-test=check]')).toContainText('the limit rises to')
  await page.locator('#order-amount').fill('1')
  await expect(verdict).toContainText('Yes.')
  await press(page, 'Escape')

  // Each part opens into what it is made of: items in the drawer, orders and cheques under their row.
  const parts = page.locator('[data-test=parts]')
  const drawer = page.locator('[data-test=make-up]')
  const opened: string[] = []
  for (const [label, isDrawer] of [
    ['Open receivables', true],
    ['Credit on account', true],
    ['Delivered, not invoiced', false],
    ['Open orders', false],
  ] as const) {
    const button = parts.locator('tbody tr').filter({ hasText: label }).first().getByRole('button')
    if (!(await button.count())) continue
    opened.push(label)
    await button.click()
    if (isDrawer) {
      await expect(drawer).toBeVisible()
      await press(page, 'Escape')
      await expect(drawer).toBeHidden()
    } else {
      await expect(parts.locator('tbody table td').first()).toBeVisible()
      await button.click()
    }
  }
  expect(opened).toContain('Open receivables')

  await press(page, 'h')
  await page.keyboard.type('waits for the lawyer')
  await press(page, 'Enter')
  await expect(page.locator('[data-test=hold]')).toContainText('waits for the lawyer')
  await expect(page.locator('[data-test=card-held]')).toContainText('by hand')
  await page.getByRole('button', { name: 'release' }).click()
  await page.keyboard.type('the lawyer agrees')
  await page.getByRole('button', { name: 'for good' }).click()
  await page.getByRole('button', { name: 'Release', exact: true }).click()
  await expect(page.locator('[data-test=said]')).toBeVisible()

  // Nobody signs their own; what waits is signed by the supervisor, the next one is chosen by itself.
  await page.goto('/sign-off')
  await expect(page.locator('tbody tr').first()).toBeVisible()
  const waiting = await page.locator('tbody tr[data-row]').count()
  expect(waiting).toBeGreaterThan(3)
  await expect(page.locator('[data-test=sign]')).toBeDisabled()
  await signIn(page.request, 'supervisor')
  await page.goto('/sign-off')
  await expect(page.locator('[data-test=sign]')).toBeEnabled()
  await press(page, 's')
  await expect(page.locator('[data-test=said]')).toContainText('Signed')
  await expect(page.locator('tbody tr[data-row]')).toHaveCount(waiting - 1)
})

test('a customer is changed, the second editor is told, a new one is opened, the limit waits', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/accounts/2010/master')
  await expect(page.locator('#m-city')).toBeVisible()
  const { version } = (await (await page.request.get('/api/accounts/2010/master')).json()) as {
    version: number
  }
  const other = await page.request.put('/api/accounts/2010', {
    data: { version, set: { phone: '+353 555 0001' } },
  })
  expect(other.status()).toBe(200)
  await page.locator('#m-city').fill('Portulin')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=trouble]')).toContainText('changed Telephone')
  await page.getByRole('button', { name: 'Look at it as it is now' }).click()
  await expect(page.locator('#m-phone')).toHaveValue('+353 555 0001')
  await page.locator('#m-city').fill('Portulin')
  await page.locator('#m-terms').fill('soon')
  await expect(page.locator('#m-terms-fault')).toBeVisible()
  await page.locator('#m-terms').fill('net 60')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=history]')).toContainText('Portulin')
  await page.getByRole('button', { name: 'give back to the class' }).first().click()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=history]')).toContainText('nothing')
  await expect(page.locator('#m-terms')).toHaveValue('')

  await page.locator('#m-creditLimit').fill('9,000,000')
  await page.getByLabel('Reason').fill('twice the volume')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=waiting]')).toContainText('Limit')

  await page.goto('/accounts')
  await expect(page.locator('tbody tr').first()).toBeVisible()
  await press(page, 'a')
  await page.locator('#number').fill('9001')
  await page.locator('#m-name').fill('Sandwort Provisions')
  await page.locator('#m-country').fill('IE')
  await press(page, 'Control+Enter')
  await expect(page.locator('main h1')).toHaveText('Sandwort Provisions')
  await expect(page).toHaveURL(/9001\/master/)
})
