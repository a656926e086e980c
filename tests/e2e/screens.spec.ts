import { expect, press, signIn, test } from './base'

test('what is typed ahead of a slow line is not lost: / batches Enter o 500 Enter', async ({ page }) => {
  await signIn(page.request, 'cash')
  await page.goto('/')
  await expect(page.locator('main h1')).toBeVisible()
  // Every answer takes its time, and so does the screen's own code.
  await page.route(/\/(?:api|_nuxt)\//, async route => {
    await new Promise(resolve => setTimeout(resolve, 400))
    await route.continue()
  })
  await press(page, '/')
  await page.keyboard.type('batches')
  await press(page, 'Enter', 'o')
  await page.keyboard.type('500')
  await expect(page.locator('#total')).toHaveValue(/^500/)
  await press(page, 'Escape')
})

test('at 1024 wide the total of Aging is in sight, no figure is cut, the Card lies over it', async ({
  page,
}) => {
  await page.setViewportSize({ width: 1024, height: 768 })
  await signIn(page.request, 'controller')
  for (const view of ['/aging', '/accounts', '/exposure', '/outbox', '/receipts', '/banking?state=all']) {
    await page.goto(view)
    await expect(page.locator('tbody tr').first()).toBeVisible()
    await page.waitForLoadState('networkidle')
    const cut = await page.evaluate(
      () =>
        [...document.querySelectorAll('td.num, th.num')].filter(
          e => e.scrollWidth > e.clientWidth + 1 || e.getBoundingClientRect().right > window.innerWidth,
        ).length,
    )
    expect(cut, view).toBe(0)
  }
  await page.goto('/aging')
  await expect(page.locator('tbody tr.on')).toBeVisible()
  await expect(page.locator('[data-test=total]')).toBeInViewport()
  await expect(page.getByRole('button', { name: /^Card/ })).toBeVisible()
  await press(page, 'b')
  await expect(page.locator('[data-test=card-drawer]')).toBeVisible()
  await press(page, 'b')
  await expect(page.locator('[data-test=card-drawer]')).toHaveCount(0)
})

test('on a phone Today, Aging and an account are usable', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 780 })
  await signIn(page.request, 'controller')
  for (const view of ['/', '/accounts', '/accounts/2001']) {
    await page.goto(view)
    await expect(page.locator('main h1')).toBeVisible()
    await page.waitForLoadState('networkidle')
    expect(await page.evaluate(() => document.documentElement.scrollWidth), view).toBeLessThanOrEqual(390)
  }
})

test('wherever the arrows go, the row of the cursor stands between head and foot', async ({ page }) => {
  await signIn(page.request, 'controller')
  for (const view of ['/aging', '/receipts/tick-sheet', '/accounts/2001']) {
    await page.goto(view)
    await expect(page.locator('tbody tr.on')).toBeVisible()
    await page.waitForLoadState('networkidle')
    for (const keys of [
      Array<string>(25).fill('ArrowDown'),
      ['End'],
      Array<string>(25).fill('ArrowUp'),
      ['Home'],
      ['PageDown', 'PageDown'],
    ]) {
      await press(page, ...keys)
      await expect
        .poll(
          () =>
            page.evaluate(() => {
              const edge = (selector: string) =>
                [...document.querySelectorAll(`.grid-table ${selector}`)].pop()?.getBoundingClientRect()
              const row = edge('tbody tr.on')!
              return (
                row.top >= edge('thead th')!.bottom - 1 &&
                row.bottom <= (edge('tfoot')?.top ?? window.innerHeight) + 1
              )
            }),
          { message: `${view} after ${keys.length} × ${keys[0]}` },
        )
        .toBe(true)
    }
  }
})

test('at 1280×800 the aging list shows at least 16 rows beside the Card, and no figure is cut', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/aging')
  await expect(page.getByRole('complementary', { name: 'Card' }).getByRole('heading')).toBeVisible()
  const { rows, cut } = await page.evaluate(() => {
    const foot = document.querySelector('tfoot')!.getBoundingClientRect()
    const list = [...document.querySelectorAll('tbody tr.link')]
    return {
      rows: list.filter(r => r.getBoundingClientRect().bottom <= foot.top + 4).length,
      cut: [...document.querySelectorAll('td.num')].filter(td => td.scrollWidth > td.clientWidth + 1).length,
    }
  })
  expect(rows).toBeGreaterThanOrEqual(16)
  expect(cut).toBe(0)
})

test('a past date: the aging of then, its make-up and the account as it stood', async ({ page }) => {
  await signIn(page.request, 'auditor')
  await page.goto('/aging?asOf=2026-06-30')
  const total = page.locator('[data-test=total]')
  await expect(total).not.toHaveText('')
  await expect(page.locator('[data-test=ties]')).toHaveText('ties to 1100')
  const then = await total.innerText()
  await page.getByLabel('As of').fill('30 jun 2026')
  await press(page, 'Enter')
  await expect(total).toHaveText(then)
  await total.click()
  const exact = page.locator('[data-test=make-up-total]')
  await expect(exact).not.toHaveText('')
  const figure = (text: string) => Number(text.replace(/,/g, ''))
  expect(Math.round(figure(await exact.innerText()))).toBe(figure(then))
  await press(page, 'Escape')
  await page.locator('[data-test=ties]').click()
  await expect(page.getByText('They agree to the cent.')).toBeVisible()
  await press(page, 'Escape')
  await page.getByLabel('As of').fill('-7')
  await press(page, 'Enter')
  await expect(page).toHaveURL(/asOf=2026-11-09/)
})

test('sort, columns, keys, the Card, dark and light', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/aging')
  await page.getByRole('button', { name: /^91\+/ }).last().click()
  await expect(page.locator('th[aria-sort=descending]')).toContainText('91+')
  await page.getByRole('button', { name: 'Columns' }).click()
  await page.locator('label', { hasText: '61–90' }).getByRole('checkbox').uncheck()
  await press(page, 'Escape')
  await expect(page.locator('th', { hasText: '61–90' })).toHaveCount(0)
  await page.getByRole('heading', { name: 'Aging' }).click()
  const card = page.getByRole('complementary', { name: 'Card' })
  const first = await card.getByRole('heading').innerText()
  await press(page, 'ArrowDown')
  await expect(card.getByRole('heading')).not.toHaveText(first)
  await press(page, 'b')
  await expect(card).toHaveCount(0)
  await press(page, 'b', 'n')
  await page.keyboard.type('Rang, nobody there')
  await press(page, 'Control+Enter')
  await expect(card.getByText('Rang, nobody there')).toBeVisible()
  await press(page, '?')
  await expect(page.getByRole('dialog').getByText('Make-up of the row')).toBeVisible()
  await press(page, 'Escape')
  await page.locator('[data-test=person]').click()
  await page.getByRole('menuitem', { name: 'Dark' }).click()
  await expect(page.locator('html')).toHaveClass(/dark/)
})

test('who may not post sees no way to', async ({ page }) => {
  await signIn(page.request, 'auditor')
  await page.goto('/receipts')
  await expect(page.locator('tbody tr.link').first()).toBeVisible()
  await expect(page.getByRole('link', { name: /Enter a receipt/ })).toHaveCount(0)
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: 'What happened here' })).toBeVisible()
  await expect(page.locator('[data-test=reverse]')).toHaveCount(0)
})

test('the demo’s people sign in with one click; an address without a page says so and leads on', async ({
  page,
}) => {
  await page.goto('/nowhere/at-all')
  await page.waitForURL(/sign-in/)
  await page.getByRole('button', { name: /Bruno Eck, auditor/ }).click()
  await expect(page.getByRole('heading', { name: 'There is no such page' })).toBeVisible()
  await expect(page.getByText('/nowhere/at-all')).toBeVisible()
  await page.getByRole('link', { name: 'To Today' }).click()
  await expect(page).toHaveURL(u => u.pathname === '/')
  await expect(page.locator('[data-test=person]')).toContainText('Eck')
})

test('F finds in every list, Enter gives the keys back to it, Escape empties what was typed', async ({
  page,
}) => {
  await signIn(page.request, 'supervisor')
  const lists = ['/accounts', '/receipts', '/banking', '/disputes', '/refunds', '/refunds?part=refunds']
  const more = ['/refunds?part=cheques', '/impairment', '/impairment?part=written', '/collections/mandates']
  const last = ['/collections/payments?part=all', '/books/journal', '/books/audit', '/review']
  for (const path of [...lists, ...more, ...last]) {
    await page.goto(path)
    await page.waitForLoadState('networkidle')
    await page.keyboard.press('f')
    const field = page.locator('input:focus')
    await expect(field, path).toHaveAttribute('aria-label', /^(Find|Filter)/)
    const own = page.getByLabel((await field.getAttribute('aria-label'))!, { exact: true })
    await page.keyboard.type('no such thing')
    await page.keyboard.press('Enter')
    await expect(own, path).not.toBeFocused()
    await expect(own, path).toHaveValue('no such thing')
    await page.keyboard.press('f')
    await page.keyboard.press('Escape')
    await expect(own, path).toHaveValue('')
    await expect(own, path).not.toBeFocused()
  }
})

test('keys that choose a customer wait for what will be found, however slow', async ({ page }) => {
  await signIn(page.request, 'cash')
  await page.goto('/receipts/new')
  await page.waitForLoadState('networkidle')
  await page.route(/\/api\/accounts\?/, async route => {
    await new Promise(resolve => setTimeout(resolve, 700))
    await route.continue()
  })
  await page.locator('[data-test=customer]').focus()
  // What is shown meanwhile are the customers of before: Enter is not for them.
  await page.keyboard.type('Kestrel Loch H')
  await page.keyboard.press('Enter')
  await expect(page.locator('main')).toContainText('Kestrel Loch Hatchery')
  await expect(page).toHaveURL(/customer=\d+/)
})

test('an arrow and Enter in one breath choose the row of the arrow', async ({ page }) => {
  await signIn(page.request, 'cash')
  await page.goto('/receipts/new')
  await page.waitForLoadState('networkidle')
  for (const [test, words] of [
    ['customer', 'Kestrel Loch'],
    ['jump', 'kestrel loch'],
  ] as const) {
    await page.locator(`[data-test=${test}]`).focus()
    await page.keyboard.type(words)
    const second = page.getByRole('option', { name: /Kestrel Loch/ }).nth(1)
    const name = (await second.locator('.name').textContent())!
    await Promise.all([page.keyboard.press('ArrowDown'), page.keyboard.press('Enter')])
    await expect(second).toBeHidden()
    await expect(page.locator('main')).toContainText(name)
  }
  await expect(page).toHaveURL(/\/accounts\/\d+/)
})
