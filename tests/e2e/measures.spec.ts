import { expect, press, signIn, test } from './base'

interface Point {
  date: string
  parts: { receivables: number; onAccount: number }
  figures: Record<string, number | null>
}

test('on every month end of the demo the measures tie to the control account', async ({ page }) => {
  await signIn(page.request, 'treasurer')
  const get = async (path: string) => (await page.request.get(path)).json()
  const { points } = (await get('/api/measures?points=24')) as { points: Point[] }
  expect(points.length).toBeGreaterThanOrEqual(24)
  for (const { date, parts } of points) {
    const { control } = (await get(`/api/aging?asOf=${date}&limit=1`)) as { control: { balance: number } }
    expect([date, parts.receivables + parts.onAccount]).toEqual([date, control.balance])
  }
  expect(points.at(-1)!.figures.dso).toBeGreaterThan(0)
})

test('measures by key: what one is made of, down to the items; targets from Setup', async ({ page }) => {
  await signIn(page.request, 'supervisor')
  await page.goto('/measures')
  const table = page.locator('[data-test=measures]')
  await expect(table.locator('tr.on')).toHaveAttribute('data-measure', 'overdue')
  await press(page, 'ArrowDown', 'ArrowDown', 'ArrowDown')
  await expect(table.locator('tr.on')).toHaveAttribute('data-measure', 'dso')
  await expect(page.getByText('open receivables ÷ sales of the period × days of the period')).toBeVisible()
  await press(page, 'Enter')
  const items = page.locator('[data-test=part-items]')
  await expect(items).toContainText('open receivables')
  const figure = await page.locator('[data-test=made-of] tr.on td.num').innerText()
  await expect(items.locator('[data-test=part-total]')).toHaveText(figure)
  await page.getByLabel('Side by side').selectOption('class')
  await expect(page.locator('[data-test=side-by-side] tbody tr')).not.toHaveCount(0)
  await expect(page.locator('[data-test=side-by-side] tfoot')).toContainText('All')

  await page.goto('/setup/measures')
  await page.getByLabel('Days sales outstanding').fill('1')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.locator('[data-test=said]')).toContainText('Settings saved')
  await page.goto('/measures')
  await expect(table.locator('[data-measure=dso]')).toContainText('missed')
})

test('a review: why now, what the score is made of, how good it was, accepted, the next one', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  // The worker learns after the application has begun.
  await expect
    .poll(
      async () => ((await (await page.request.get('/api/review')).json()) as { model: object | null }).model,
    )
    .not.toBeNull()
  await page.goto('/review')
  await expect(page.locator('tbody tr').first()).toBeVisible()
  await press(page, 'h')
  const tested = page.locator('[data-test=tested]')
  await expect(tested).toContainText('Brier score')
  // On a year that the model has not seen: nearer to what came than saying the same of all.
  await expect(tested).toContainText('it knows more')
  await press(page, 'h')
  await expect(tested).toBeHidden()
  await press(page, 'Enter')
  await expect(page.locator('[data-test=parts] tbody tr')).toHaveCount(7)
  const score = page.locator('[data-test=score]')
  await expect(score).toHaveText(/\d/)
  await expect(page.locator('[data-test=parts] tfoot')).toContainText(await score.innerText())
  await expect(page.locator('[data-test=reasons] li').first()).toContainText('Class')
  const name = await page.locator('main h1').innerText()
  await page.locator('#limit').fill('900000.00')
  await page.locator('main h1').click()
  await press(page, 'y')
  await expect(page.locator('[data-test=said]')).toContainText(
    `${name} reviewed. The limit waits for Sign-off.`,
  )
  await expect(page.locator('main h1')).not.toHaveText(name)
})

test('accounts by headroom, kept as a view for everybody, found by a colleague, removed again', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  await page.goto('/accounts')
  const rows = page.locator('tbody tr[data-row]')
  await expect(rows.first()).toBeVisible()
  await page.getByRole('button', { name: 'Headroom' }).click()
  await page.getByRole('button', { name: 'Headroom ↓' }).click()
  await expect(page.getByRole('columnheader', { name: 'Headroom ↑' })).toBeVisible()
  await expect(rows.first()).toContainText('−')
  const first = await rows.first().getAttribute('data-row')
  await press(page, 's')
  await page.getByLabel('Name of the view').fill('Nearest to their limit')
  await page.getByLabel('for everybody').check()
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.locator('[data-test=said]')).toContainText('Nearest to their limit')

  await signIn(page.request, 'cash')
  await page.goto('/accounts')
  await expect(rows.first()).toBeVisible()
  await page.locator('[data-test=views]').getByRole('button', { name: 'Nearest to their limit' }).click()
  await expect(rows.first()).toHaveAttribute('data-row', first!)
  await expect(page.getByRole('button', { name: 'Remove view Nearest to their limit' })).toHaveCount(0)

  await signIn(page.request, 'controller')
  await page.goto('/accounts')
  const views = page.locator('[data-test=views]')
  await views.getByRole('button', { name: 'Nearest to their limit' }).click()
  await views.getByRole('button', { name: 'Remove view Nearest to their limit' }).click()
  await expect(views.getByRole('button', { name: 'Nearest to their limit' })).toHaveCount(0)
})

test('Today says what moved and what waits, each role in its own order', async ({ page }) => {
  const lines = async (role: string) => {
    await signIn(page.request, role)
    const { moved, todo } = (await (await page.request.get('/api/today')).json()) as {
      moved: { kind: string; to: string }[]
      todo: { kind: string; to: string }[]
    }
    for (const line of [...moved, ...todo]) expect(line.to).toMatch(/^\//)
    return { moved: moved.map(m => m.kind), todo: todo.map(t => t.kind) }
  }
  expect((await lines('supervisor')).todo[0]).toBe('sign-off')
  expect((await lines('auditor')).moved[0]).toBe('settings')
  const sales = await lines('sales')
  const own = ['messages', 'answers', 'disputes', 'orders', 'held']
  expect(sales.todo.filter(kind => !own.includes(kind))).toEqual([])
  expect((await lines('controller')).todo).toContain('held')
  await page.goto('/')
  await page.locator('[data-test=moved] a').first().click()
  await expect(page).not.toHaveURL(/\/$/)
  await expect(page.locator('main h1')).toBeVisible()
})
