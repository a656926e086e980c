import { test as plain, expect, type APIRequestContext, type Page } from '@playwright/test'

export const test = plain.extend<{ faults: string[] }>({
  baseURL: async ({}, use) => use(process.env.E2E_URL),
  // Every page is watched: an error in the console fails the test.
  faults: [
    async ({ page }, use) => {
      const faults: string[] = []
      page.on('console', m => {
        if (m.type() === 'error' && !/status of 4\d\d/.test(m.text())) faults.push(m.text())
      })
      page.on('pageerror', e => faults.push(e.message))
      await use(faults)
      expect(faults).toEqual([])
    },
    { auto: true },
  ],
})
export { expect }

export const PASSWORD = 'kelp-and-tide'
export const email = (role: string) => `${role}@wrackline.example`

export async function signIn(request: APIRequestContext, role: string): Promise<void> {
  const answer = await request.post('/api/session', { data: { email: email(role), password: PASSWORD } })
  expect(answer.status()).toBe(200)
}

/** Types into the field that has the focus. */
export const type = (page: Page, text: string) => page.keyboard.type(text)
export const press = (page: Page, ...keys: string[]) =>
  keys.reduce((p, k) => p.then(() => page.keyboard.press(k)), Promise.resolve())

/**
 * A key opens the file chooser, which is given this file. The page answers once in between: only then does
 * the browser surely hand the chooser to us.
 */
export async function chooseFile(
  page: Page,
  key: string,
  file: { name: string; mimeType: string; buffer: Buffer },
): Promise<void> {
  const chooser = page.waitForEvent('filechooser')
  await page.evaluate(() => document.readyState)
  await press(page, key)
  await (await chooser).setFiles(file)
}
