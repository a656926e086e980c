import type { APIRequestContext, Page } from '@playwright/test'
import { expect, press, signIn, test } from './base'

/*
 * Money back and money pulled, from the keyboard, with the simulated bank behind it. This file comes last: it
 * lets two weeks pass.
 */

const get = async <T>(request: APIRequestContext, path: string) =>
  (await (await request.get(path)).json()) as T
const rowsOf = (page: Page) => page.locator('main tbody tr.link')

interface Credits {
  items: { number: string }[]
}

test('credits that customers want back are gone with one file and two signatures', async ({ page }) => {
  test.setTimeout(120_000)
  await signIn(page.request, 'cash')
  await page.goto('/refunds')
  await expect(rowsOf(page).first()).toBeVisible()
  await press(page, 'k')
  await expect(page.locator('main tfoot')).toContainText('4 credits')
  await expect(rowsOf(page)).toHaveCount(4)
  await press(page, 'Space', 'ArrowDown', 'Space', 'ArrowDown', 'Space', 'ArrowDown', 'Space')
  await expect(page.locator('main tfoot')).toContainText('4 credits in 4 refunds chosen')
  await expect(page.locator('[data-test=proof]')).toContainText('1230 Payments to customers on their way')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('waits in Sign-off')
  await expect(rowsOf(page).first()).toContainText('waits for a signature')

  // Nobody signs their own; the supervisor does, with what it would do in sight.
  await signIn(page.request, 'supervisor')
  await page.goto('/sign-off')
  await rowsOf(page).filter({ hasText: 'Refund' }).first().click()
  await expect(page.locator('main')).toContainText('back to the card')
  // What it would post is there: only then may it be signed.
  await expect(page.locator('[data-test=sign]')).toBeEnabled()
  await press(page, 's')
  await expect(page.locator('[data-test=said]')).toContainText(/igned/)
  const asked = await get<Credits>(page.request, '/api/refunds/credits?only=asked')
  expect(asked.items).toEqual([])

  await signIn(page.request, 'treasurer')
  await page.goto('/refunds?part=refunds')
  await expect(page.getByRole('button', { name: /^File of 3 refunds/ })).toBeVisible()
  // The one by card goes to the terminal; it says yes or no.
  await press(page, 'k')
  await expect(page.locator('[data-test=said]')).toContainText('paid by the card terminal')
  await expect(page.getByRole('button', { name: /card terminal/ })).toHaveCount(0)
  await press(page, 'p')
  await expect(page.locator('[data-test=said]')).toContainText('file is made')
  await press(page, '.', '.')
  await expect(rowsOf(page).first()).toContainText('Made')
  await press(page, 'g')
  await expect(rowsOf(page).first()).toContainText('With the bank')
  // It is there once; a second press finds nothing to send.
  await press(page, 'g')
  const files = await get<{ items: { state: string }[] }>(page.request, '/api/payments/files?kind=transfer')
  expect(files.items.map(f => f.state)).toEqual(['sent'])
})

test('a collection is announced, sent and settled, and what comes back is worked', async ({ page }) => {
  test.setTimeout(240_000)
  await signIn(page.request, 'treasurer')
  await page.goto('/collections')
  await expect(page.locator('[data-test=propose]')).toBeVisible()
  await press(page, 'Control+Enter')
  await expect(page.getByRole('heading', { name: /^Collection \d+/ })).toBeVisible()
  await expect(rowsOf(page).first()).toBeVisible()
  // What is left out has a reason; one customer more is left out by hand.
  await press(page, 'o')
  await expect(rowsOf(page).first()).toBeVisible()
  const reasons = await page.locator('main tbody tr.link td:nth-child(4)').allTextContents()
  expect(reasons.length).toBeGreaterThan(3)
  for (const reason of reasons) expect(reason.trim().length).toBeGreaterThan(8)
  await press(page, 'o')
  const tab = page.getByRole('button', { name: /^Customers/ })
  const all = Number((await tab.textContent())!.match(/\d+/)![0])
  expect(all).toBeGreaterThanOrEqual(30)
  await press(page, 'ArrowDown', 'Space')
  await page.keyboard.type('they asked us to wait')
  await press(page, 'Enter')
  await expect(page.locator('[data-test=said]')).toContainText('is left out')
  await expect(tab).toContainText(String(all - 1))
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('main .sheet-head')).toContainText('announced', { timeout: 30_000 })
  await press(page, 'g')
  await expect(page.locator('[data-test=said]')).toContainText('with the bank', { timeout: 30_000 })
  await expect(rowsOf(page).first()).toContainText(/with the bank/)

  // The Clock goes on; the bank answers, collects, and sends three back.
  for (let day = 0; day < 11; day++)
    expect((await page.request.post('/api/clock/advance', { timeout: 60_000 })).status()).toBe(200)
  await signIn(page.request, 'cash')
  const taken = await page.request.post('/api/banking/inbox/take', { timeout: 120_000 })
  expect(((await taken.json()) as { setAside: object[] }).setAside).toEqual([])
  await signIn(page.request, 'treasurer')
  const settled = await get<{ items: { state: string; payments: number }[] }>(
    page.request,
    '/api/payments/files?kind=debit',
  )
  expect(settled.items.every(f => f.state === 'accepted')).toBe(true)
  expect(settled.items.reduce((a, f) => a + f.payments, 0)).toBe(all - 1)

  // A cash applier takes the three returns as the bank tells them.
  await signIn(page.request, 'cash')
  await page.goto('/banking')
  const find = page.getByLabel(/Find a line|Search|find/i).first()
  await find.fill('RETURN DD')
  await expect(rowsOf(page)).toHaveCount(3)
  for (let left = 3; left > 0; left--) {
    await rowsOf(page).first().click()
    await expect(page.locator('[data-test=post]')).toBeEnabled()
    await press(page, 'Control+Enter')
    await expect(rowsOf(page)).toHaveCount(left - 1)
  }
  await signIn(page.request, 'treasurer')
  await page.goto('/collections/payments')
  await expect(rowsOf(page)).toHaveCount(3)
  const started = Date.now()
  for (let left = 3; left > 0; left--) {
    await expect(page.getByLabel('What to do')).toBeVisible()
    await press(page, 'Control+Enter')
    await expect(rowsOf(page)).toHaveCount(left - 1)
  }
  expect(Date.now() - started).toBeLessThan(60_000)
  await expect(page.locator('main')).toContainText('Nothing came back that is not worked')
  // The one for want of money is proposed again.
  await page.goto('/collections')
  await expect(rowsOf(page).first()).toContainText('proposed again')
})

test('a mandate is entered from the keyboard, and a wrong one says what would be right', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/collections/mandates?customer=2001')
  await expect(page.locator('main h1')).toBeVisible()
  await press(page, 'n')
  await expect(page.getByLabel('Mandate', { exact: true })).toBeVisible()
  await page.locator('#m-iban').fill('IE29AIBK93115212345679')
  await press(page, 'Enter')
  await expect(page.getByRole('alert')).toContainText(/not a valid IBAN/)
  await page.locator('#m-iban').fill('IE29 AIBK 9311 5212 3456 78')
  await page.getByLabel('A scan from this machine').setInputFiles({
    ...{ name: 'signed.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.4\n%%EOF\n') },
  })
  await expect(page.locator('#m-scan')).toContainText('signed.pdf')
  await page.locator('#m-iban').press('Enter')
  await expect(page.locator('[data-test=said]')).toContainText('entered')
  await expect(rowsOf(page).first()).toContainText('FRST')
  await press(page, 'Enter')
  await expect(page.getByRole('link', { name: 'signed.pdf' })).toBeVisible()
})
