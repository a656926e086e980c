import type { Page } from '@playwright/test'
import seedrandom from 'seedrandom'
import { expect, press, signIn, test } from './base'

/* Every answer comes late, each by another while: what somebody did meanwhile is not overwritten. */

const LONGEST_MS = 1200

async function delayAnswers(page: Page, seed: string): Promise<void> {
  const chance = seedrandom(seed)
  await page.route('**/api/**', async route => {
    // What is read comes late; what is changed is quick: the worst order.
    const isRead = route.request().method() === 'GET'
    await new Promise(resolve => setTimeout(resolve, isRead ? chance() * LONGEST_MS : 0))
    await route.continue().catch(() => {})
  })
}

for (const seed of ['Wrackline 1', 'Wrackline 2', 'Wrackline 3'])
  test(`a scan put there while the list of scans is on its way stays chosen (${seed})`, async ({ page }) => {
    await signIn(page.request, 'controller')
    await delayAnswers(page, seed)
    await page.goto('/collections/mandates?customer=2003')
    await expect(page.locator('main h1')).toBeVisible()
    await press(page, 'n')
    await expect(page.getByLabel('Mandate', { exact: true })).toBeVisible()
    await page.getByLabel('A scan from this machine').setInputFiles({
      name: `signed by ${seed}.pdf`,
      mimeType: 'application/pdf',
      buffer: Buffer.from('%PDF-1.4\n%%EOF\n'),
    })
    const scan = page.locator('#m-scan')
    await expect(scan.locator('option:checked')).toContainText(`signed by ${seed}.pdf`)
    await page.waitForTimeout(LONGEST_MS)
    await expect(scan.locator('option:checked')).toContainText(`signed by ${seed}.pdf`)
  })

test('what is typed into one class stays while another is saved', async ({ page }) => {
  await signIn(page.request, 'supervisor')
  await delayAnswers(page, 'classes')
  await page.goto('/setup/classes')
  const forms = page.locator('main form[aria-label]')
  await expect(forms.first()).toBeVisible()
  const terms = (n: number) => forms.nth(n).getByLabel('Terms')
  await terms(1).fill('net 31')
  await forms.first().getByRole('button', { name: 'Save' }).click()
  await expect(page.locator('[data-test=said]')).toContainText('saved')
  await expect(terms(1)).toHaveValue('net 31')
})
