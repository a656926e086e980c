import { expect, press, signIn, test } from './base'

/** Ten calls from the keyboard: two promises, a dispute, a copy and a statement; the list knows all of it. */
test('a morning of calls: promises, a dispute, a copy and a statement, and the list knows it', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/call-list')
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toBeVisible()
  const before = Number((await page.locator('[data-test=done]').textContent())!.match(/(\d+) call/)![1])
  const panel = page.locator('[data-test=call]')
  const outcomes = ['Prom', 'Not', 'Reach', 'Disp', 'Prom', 'Not', 'Reach', 'Asked', 'Reach', 'Not']
  const called: string[] = []
  for (const outcome of outcomes) {
    const name = (await rows.first().locator('.name').textContent())!
    called.push(name)
    await press(page, 'c')
    await expect(panel.locator('table tbody tr').first()).toBeVisible()
    await expect(page.locator('#outcome')).toBeFocused()
    await page.keyboard.type(outcome)
    if (outcome === 'Prom') await expect(page.locator('#promised')).not.toHaveValue('')
    if (outcome === 'Disp' || outcome === 'Asked') {
      await panel.locator('input.tick:not(:checked)').first().focus()
      await page.keyboard.press('Space')
    }
    await expect(page.locator('[data-test=log]')).toBeEnabled()
    await page.keyboard.press('Control+Enter')
    await expect(panel).toBeHidden()
    await expect(rows.first().locator('.name')).not.toHaveText(name)
  }
  await expect(page.locator('[data-test=done]')).toContainText(`${before + 10} calls`)
  await page.locator('[data-test=of]').selectOption('all')
  await expect(rows.first()).toBeVisible()
  for (const name of called)
    await expect(rows.locator('.name', { hasText: new RegExp(`^${name}$`) })).toHaveCount(0)

  // A statement goes out with two keys, whatever list one is on.
  await press(page, '7')
  await expect(page.locator('[data-test=send]')).toContainText('A statement of account to')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-test=said]')).toContainText(/On its way|waits under Outbox/)

  // And so does a copy of the item that the cursor is on.
  await page.goto('/promises')
  await expect(rows.first()).toBeVisible()
  const promised = await rows.locator('.name').allTextContents()
  for (const n of [0, 4]) expect(promised).toContain(called[n])
  await page.goto('/disputes')
  await expect(rows.locator('.name', { hasText: called[3]! }).first()).toBeVisible()
  await rows.locator('.name', { hasText: called[3]! }).first().click()
  await press(page, 'Enter')
  await expect(page.locator('main h1')).toHaveText(called[3]!)
  await expect(page.locator('main tbody')).toContainText('disputed')
  await press(page, 'a')
  const invoice = rows.filter({ hasText: /Invoice/ }).first()
  await expect(invoice).toBeVisible()
  await invoice.click()
  await press(page, '8')
  await expect(page.locator('[data-test=send]')).toContainText('A copy of')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-test=said]')).toContainText(/On its way|waits under Outbox/)
  await press(page, 'l')
  await expect(page.locator('main')).toContainText('Copy')
  await expect(page.locator('main tbody')).toContainText('Disputed')
})

test('an answer of a customer is done with what was read from it, once', async ({ page }) => {
  await signIn(page.request, 'controller')
  // The worker takes it in after the application has begun.
  const waiting = async () =>
    ((await (await page.request.get('/api/messages/unread')).json()) as { mail: number }).mail
  await expect.poll(waiting, { timeout: 45_000 }).toBeGreaterThan(5)
  await page.goto('/inbox')
  const rows = page.locator('main tbody tr.link')
  await expect(rows.first()).toBeVisible({ timeout: 30_000 })
  const promise = rows.filter({ hasText: 'Promises to pay' }).first()
  await promise.click()
  const mail = page.locator('[data-test=mail]')
  await expect(mail.locator('#mail-amount')).not.toHaveValue('')
  const many = await waiting()
  await expect(page.locator('[data-test=act]')).toBeEnabled()
  await page.keyboard.press('Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('Promise noted')
  await expect.poll(waiting).toBe(many - 1)
})

test('a word to a colleague about a customer is answered inside, and stands on the account', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/accounts/2040')
  await expect(page.getByRole('complementary', { name: 'Card' }).getByRole('heading')).toBeVisible()
  await press(page, '9')
  await page.getByLabel('To whom').selectOption({ label: 'Agnes Holloway, supervisor' })
  await page.getByLabel('Message').fill('May they have a week more?')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-test=said]')).toContainText('Agnes Holloway')
  await signIn(page.request, 'supervisor')
  await page.goto('/messages')
  await page.locator('main tbody tr.link', { hasText: 'May they have a week more?' }).click()
  await press(page, 'a')
  await page.keyboard.type('Until Friday')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-test=message]')).toContainText('Until Friday')
  await page.goto('/accounts/2040/timeline')
  await expect(page.locator('main tbody')).toContainText('Until Friday')
})
