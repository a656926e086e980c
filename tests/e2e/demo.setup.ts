import { expect, test } from '@playwright/test'

/** Longer than the demo takes beside other work. */
const READY_MS = 480_000

test('the application starts with its demo', async ({ request }) => {
  test.setTimeout(READY_MS)
  await expect
    .poll(
      () =>
        request.get(`${process.env.E2E_URL}/api/health`).then(
          answer => answer.status(),
          () => 'not yet',
        ),
      { timeout: READY_MS, intervals: [1000] },
    )
    .toBe(200)
})
