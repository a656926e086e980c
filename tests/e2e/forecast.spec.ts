import { expect, press, signIn, test, type } from './base'

test('on Monday the treasurer sees when the floor is in danger, and why, and tries two ways out', async ({
  page,
}) => {
  test.setTimeout(120_000)
  // What others did to the demo before does not matter: the floor is where it will be crossed.
  await signIn(page.request, 'supervisor')
  await page.goto('/forecast?part=planned')
  await page.getByLabel('Floor of the bank balance').fill('600,000.00')
  await page.getByLabel('Told from').fill('25')
  await page.getByRole('button', { name: 'Save the floor' }).click()
  await expect(page.getByText('The floor is saved.')).toBeVisible()
  await signIn(page.request, 'treasurer')
  await page.goto('/')
  await expect(page.locator('[data-test=floor]')).toContainText(
    /may fall below .* by .* with a chance of \d+ %/,
  )
  await page.getByRole('link', { name: 'Look at the forecast' }).click()
  const told = page.locator('[data-test=told]')
  await expect(told).toContainText(/at the bank, in 13 weeks about/)
  await expect(told).toContainText(/the floor of 600,000 may be crossed/)
  // A week opens down to its items, and a payment out to what was planned.
  await page
    .getByRole('button', { name: /^Open items until/ })
    .first()
    .click()
  const made = page.getByRole('region', { name: 'What it is made of' })
  await expect(made).toContainText(/items may come, on average/)
  await expect(made.getByRole('row').nth(1)).toContainText('%')
  await page
    .getByRole('button', { name: /^Payments out until/ })
    .first()
    .click()
  await expect(made).toContainText('VAT return')
  // A customer pays later, then a payment is held: nothing is kept of either.
  await press(page, 'w')
  await type(page, 'Coldharbour')
  await expect(page.getByRole('option', { name: /Coldharbour/ }).first()).toBeVisible()
  await press(page, 'ArrowDown', 'Enter')
  const whatIf = page.locator('[data-test=what-if]')
  const effect = page.locator('[data-test=effect]')
  await page.getByRole('button', { name: 'Show it' }).click()
  await expect(whatIf).toContainText('pays 30 days later')
  await expect(effect).toContainText(/in the end; below the floor \d+ % → \d+ %/)
  await page.getByRole('button', { name: 'As it is' }).click()
  await press(page, 'w')
  await page.getByLabel('What happens').selectOption('hold')
  await page.getByLabel('Planned payment').selectOption({ label: 'New baling press' })
  await page.getByRole('button', { name: 'Show it' }).click()
  await expect(whatIf).toContainText('New baling press is held for 30 days')
  // Last month’s forecast against what really came.
  await press(page, '.', '.', '.', '.')
  await expect(page.locator('[data-test=summary]')).toContainText('% better')
  await expect(page.locator('[data-test=then]').getByRole('row').nth(1)).toContainText(/band|within/)
  await expect(page.locator('[data-test=bridge]')).toContainText('Came in all')
  await page.locator('[data-test=records]').getByRole('button').last().click()
  await expect(page.locator('[data-test=bridge]')).toContainText('were expected of orders and new sales')
})

test('what-ifs are tried in the page, many at once, kept by name, and stand side by side', async ({
  page,
}) => {
  test.setTimeout(120_000)
  await signIn(page.request, 'treasurer')
  const asked: string[] = []
  page.on('request', r => {
    if (r.url().endsWith('/api/forecast/what-if')) asked.push(r.url())
  })
  await page.goto('/forecast')
  const whatIf = page.locator('[data-test=what-if]')
  const effect = page.locator('[data-test=effect]')
  await expect(page.locator('[data-here=true]')).toBeVisible()
  await press(page, 'w')
  await type(page, 'Coldharbour')
  await expect(page.getByRole('option', { name: /Coldharbour/ }).first()).toBeVisible()
  await press(page, 'ArrowDown', 'Enter')
  await page.getByRole('button', { name: 'Show it' }).click()
  await expect(effect).toContainText('in the end')
  // No server was needed for that; a what-if that the tables know of asks it.
  expect(asked).toEqual([])
  await press(page, 'w')
  await page.getByLabel('What happens').selectOption('campaign')
  await page.getByRole('button', { name: 'Show it' }).click()
  await expect(effect).toContainText(/reminders bring money \d+ days sooner/)
  expect(asked).toHaveLength(1)
  await press(page, 'k')
  await type(page, 'Late and reminded')
  await press(page, 'Enter')
  await expect(page.getByText('Late and reminded is kept')).toBeVisible()
  // The same name again is refused, in words.
  await press(page, 'k')
  await type(page, 'Late and reminded')
  await press(page, 'Enter')
  await expect(page.getByRole('alert')).toContainText('is kept already')
  await page.getByRole('button', { name: /^Without: all who are overdue/ }).click()
  await expect(whatIf).not.toContainText('all who are overdue')
  await press(page, '.', '.')
  const row = page.getByRole('row', { name: /Late and reminded/ })
  await expect(row).toContainText('pays 30 days later')
  await expect(page.getByRole('row', { name: /As it is/ })).toContainText('%')
  await row.click()
  await press(page, 'Enter')
  await expect(effect).toContainText('in the end')
  await press(page, '.', '.')
  await row.click()
  await press(page, 'x')
  await expect(page.getByText('Late and reminded is kept no more.')).toBeVisible()
  await expect(row).toHaveCount(0)
})

test('day by day, two weeks at a time; one page as PDF, and by mail', async ({ page }) => {
  await signIn(page.request, 'treasurer')
  await page.goto('/forecast')
  await page.getByLabel('By weeks or days').selectOption('day')
  const table = page.getByRole('table', { name: 'What comes, by source and week' })
  await expect(table.getByRole('columnheader')).toHaveCount(16)
  const first = await table.getByRole('columnheader').nth(1).textContent()
  await press(page, ']')
  await expect(table.getByRole('columnheader').nth(1)).not.toHaveText(first ?? '')
  await press(page, '[')
  await expect(table.getByRole('columnheader').nth(1)).toHaveText(first ?? '')
  await page
    .getByRole('button', { name: /^Open items until/ })
    .first()
    .click()
  await expect(page.getByRole('region', { name: 'What it is made of' })).toContainText('Chance on this day')
  const url = await page.getByRole('link', { name: 'PDF' }).getAttribute('href')
  const pdf = await page.request.get(url!)
  expect(pdf.headers()['content-type']).toBe('application/pdf')
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-')
  await page.getByRole('button', { name: 'Send' }).click()
  await type(page, 'board@wrackline.example')
  await press(page, 'Enter')
  await expect(page.getByText('The forecast is sent to board@wrackline.example.')).toBeVisible()
})

test('a payment is planned, changes the forecast, and is taken out; a wrong file says what would be right', async ({
  page,
}) => {
  await signIn(page.request, 'treasurer')
  await page.goto('/forecast?part=planned')
  await expect(page.getByText('planned payments')).toBeVisible()
  await press(page, 'a')
  await type(page, 'Tin for the roof')
  await page.getByLabel('Amount', { exact: true }).fill('1,234.50')
  await page.getByRole('button', { name: 'Plan it' }).click()
  await expect(page.getByText('Tin for the roof is planned.')).toBeVisible()
  const row = page.getByRole('row', { name: /Tin for the roof/ })
  await expect(row).toContainText('1,234.50')
  await row.click()
  await press(page, 'x')
  await expect(page.getByText('Tin for the roof is planned no more.')).toBeVisible()
  await expect(row).toHaveCount(0)
  await page.getByLabel('File of planned payments').setInputFiles({
    name: 'plan.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('name,date,amount\nRent,2026-12-01,100\nTax,soon,5\n'),
  })
  await expect(page.getByRole('alert')).toContainText(/line 3/i)
})
