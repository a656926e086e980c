import { readFileSync } from 'node:fs'
import type { FileChooser } from '@playwright/test'
import { email, expect, PASSWORD, press, test, type } from './base'

const CUSTOMERS =
  'number,name,country,currency,terms,credit_limit,contact,email\n' +
  'E2E-1,Quillhaven Preserves,IE,EUR,"2% 10, net 30",20000,Ada Rook,ada@quillhaven.example\n'
const DOCUMENTS =
  'number,kind,customer,date,due_date,currency,amount,tax,text\n' +
  'Q-100,invoice,E2E-1,2026-08-10,,EUR,1210.40,226.33,dulse\n' +
  'Q-101,invoice,E2E-1,2026-09-20,,EUR,4000.00,0,agar\n' +
  'Q-102,invoice,E2E-1,2026-11-02,,EUR,980.00,0,kelp meal\n'

test('from sign-in to the reminder letter in the mailbox, with the keyboard alone', async ({
  page,
  request,
}) => {
  await page.goto('/')
  await expect(page).toHaveURL(/sign-in/)
  await type(page, email('controller'))
  await press(page, 'Tab')
  await type(page, PASSWORD)
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: 'Monday, 16 Nov 2026' })).toBeVisible()

  // Import: the file dialog of the system stands outside the page, so the files are handed to the chooser it
  // opens.
  for (const [name, csv, word] of [
    ['customers.csv', CUSTOMERS, 'Import 1 customers'],
    ['documents.csv', DOCUMENTS, 'Import 3 documents'],
  ] as const) {
    await press(page, '/')
    await type(page, 'import')
    await expect(page.getByRole('option', { name: 'Import' })).toBeVisible()
    await press(page, 'Enter')
    await expect(page.getByRole('heading', { name: 'Import' })).toBeVisible()
    await expect(page.getByRole('listbox')).toHaveCount(0)
    await expect(page.locator('[data-test=jump]')).not.toBeFocused()
    let chooser: FileChooser | undefined
    // The Jump gives the focus back a moment after its list has closed.
    await expect(async () => {
      await page.getByRole('button', { name: 'choose one' }).focus()
      const opening = page.waitForEvent('filechooser', { timeout: 3000 })
      await press(page, 'Enter')
      chooser = await opening
    }).toPass()
    await chooser!.setFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(csv) })
    await expect(page.getByRole('button', { name: word })).toBeFocused()
    await press(page, 'Enter')
    await expect(page.getByTestId('said').or(page.locator('[data-test=said]'))).toContainText('imported')
    await page.locator('[data-test=said]').getByRole('button').click()
  }

  // Aging: filter to the customer, look at the make-up, open the account.
  await press(page, '/')
  await type(page, 'aging')
  await expect(page.getByRole('option', { name: /^Aging/ })).toBeVisible()
  await press(page, 'Enter')
  await expect(page.locator('[data-test=ties]')).toHaveText(/^ties to 1100/)
  await press(page, 'f')
  await type(page, 'Quillhaven')
  await expect(page.locator('tbody tr.link')).toHaveCount(1)
  await expect(page.locator('[data-test=total]')).toHaveText('6,190')
  await press(page, 'Enter', 'm')
  await expect(page.locator('[data-test=make-up-total]')).toHaveText('6,190.40')
  await press(page, 'Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: 'Quillhaven Preserves', level: 1 })).toBeVisible()
  await expect(page.locator('[data-test=open-total]')).toHaveText('6,190.40')

  // Receipt: amount, cheque number, oldest first, the rest on account, post.
  await press(page, 'i')
  await expect(page.getByRole('heading', { name: 'Receipt from Quillhaven Preserves' })).toBeVisible()
  await expect(page.getByLabel('Amount received')).toBeFocused()
  await type(page, '1,300.00')
  await press(page, 'Tab')
  await type(page, 'cheque')
  await press(page, 'Tab')
  await type(page, '004417')
  await press(page, 'Tab', 'o')
  await expect(page.locator('[data-test=assigned]')).toHaveText('1,300.00')
  await press(page, 'ArrowDown', 'Space', 'a')
  await expect(page.locator('[data-test=rest]')).toHaveText('89.60 stays on account.')
  await expect(page.locator('[data-test=proof]')).toContainText('1210 Receipts on hand')
  await expect(page.locator('[data-test=proof]')).toContainText('on account')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('posted, € 1,300.00 from Quillhaven Preserves')

  // Found again by its cheque number, then reversed and seen in the history.
  await press(page, 'Escape', '/')
  await type(page, '004417')
  await expect(page.getByRole('option', { name: /004417/ })).toBeVisible()
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: /from Quillhaven Preserves/ })).toBeVisible()
  await press(page, 'u')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('Unallocated')
  await expect(page.getByText('Taken back from')).toBeVisible()
  await press(page, 'r')
  await type(page, 'returned cheque')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(page.getByText('returned cheque')).toBeVisible()
  await expect(page.locator('[data-test=said]')).toContainText('reversed')

  // Reminder: propose for this customer, confirm, the letter is in the mailbox.
  await press(page, '/')
  await type(page, 'Quillhaven')
  await expect(page.getByRole('option', { name: /Quillhaven/ })).toBeVisible()
  await press(page, 'Enter')
  await expect(page.locator('[data-test=open-total]')).toHaveText('6,190.40')
  await press(page, 'r')
  await expect(page.getByRole('heading', { name: 'Reminders' })).toBeVisible()
  await press(page, 'Control+Enter')
  await expect(page.getByRole('heading', { name: /Reminder run/ })).toBeVisible()
  await expect(page.locator('tbody tr.link')).toHaveCount(1)
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=said]')).toContainText('1 notice out')
  await press(page, '/')
  await type(page, 'outbox')
  await expect(page.getByRole('option', { name: 'Outbox' })).toBeVisible()
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: 'Outbox' })).toBeVisible()
  await expect(page.locator('tbody tr.link').first()).toContainText('Quillhaven')
  await expect(async () => {
    await page.reload()
    await expect(page.locator('tbody tr.link').first()).toContainText(/^sent/)
  }).toPass({ timeout: 40_000 })
  await press(page, 'Enter')
  await expect(page.getByText('As the mailbox received it')).toBeVisible()
  await expect(page.getByText('Dear Ada Rook')).toBeVisible()
  await expect(page.getByRole('link', { name: /^N-\d+\.pdf$/ })).toBeVisible()

  // The level stands on the account.
  const items = (await (await page.request.get('/api/accounts/E2E-1/items?state=open')).json()) as {
    items: { number: string; level: number }[]
  }
  expect(items.items.map(i => [i.number, i.level])).toEqual([
    ['Q-100', 1],
    ['Q-101', 1],
    ['Q-102', 0],
  ])
  expect((await request.get('/api/health')).status()).toBe(200)
})

test('wrong turns on the receipt screen are told in words and post nothing', async ({ page }) => {
  await page.request.post('/api/session', { data: { email: email('cash'), password: PASSWORD } })
  await page.goto('/receipts/new')
  await expect(page.getByLabel('Customer', { exact: true })).toBeFocused()
  await type(page, 'zzzz')
  await expect(page.getByText('No customer called “zzzz”.')).toBeVisible()
  await page.getByLabel('Customer', { exact: true }).fill('Hollin')
  await expect(page.getByRole('option').first()).toBeVisible()
  await press(page, 'Enter')
  const post = page.locator('[data-test=post]')
  await expect(page.getByRole('heading', { name: /Receipt from Hollin/ })).toBeVisible()
  await expect(post).toBeDisabled()
  await expect(page.getByText('Enter the amount received, or tick what it pays')).toBeVisible()
  await type(page, '10000000')
  await expect(page.locator('#post-off')).toHaveText('10,000,000.00 not yet assigned')
  await page.getByLabel('Amount received').fill('12,34,x')
  await expect(page.getByLabel('Amount received')).toHaveAttribute('aria-invalid', 'true')
  // Picking an item first fills the amount.
  await page.getByLabel('Amount received').fill('')
  await page.reload()
  await page.locator('tbody tr').first().getByRole('checkbox').check()
  await expect(post).toBeEnabled()
  const open = await page.locator('tbody tr').first().locator('td').nth(3).innerText()
  await expect(page.getByLabel('Amount received')).toHaveValue(open)
  await page.locator('tbody tr').first().locator('input.num').fill('99,999,999')
  await expect(page.locator('#post-off')).toContainText('are open')
  await expect(post).toBeDisabled()
})

test('a list of open items from elsewhere: columns are guessed, faults stand in their cells', async ({
  page,
}) => {
  await page.request.post('/api/session', { data: { email: email('supervisor'), password: PASSWORD } })
  await page.goto('/documents/import')
  // As a spreadsheet of western Europe writes it: a title above, semicolons, Windows-1252, a sum below.
  const rows = [
    'Offene Posten;;;;;',
    'Belegnr.;Kundennr.;Belegdatum;Fälligkeit;Währung;Offener Betrag',
    'MAP-1;2001;03.09.2026;03.10.2026;EUR;1.234,56',
    'MAP-2;2001;05.09.2026;;EUR;-110,40',
    'MAP-3;nobody;31.02.2026;;EUR;98,00',
    'Summe;;;;;1.222,16',
  ]
  const give = (list: string[]) =>
    page.locator('input[type=file]').setInputFiles({
      name: 'open.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(list.join('\r\n'), 'latin1'),
    })
  await give(rows)
  await expect(page.getByText(/Windows-1252, 4 rows/)).toBeVisible()
  await expect(page.getByLabel('Column Offener Betrag holds')).toHaveValue('amount')
  await expect(page.getByRole('alert')).toContainText('1 row is wrong')
  await expect(page.locator('[data-test=faults] tbody tr')).toHaveText([
    /5\s*customer.*no customer nobody/,
    /5\s*date.*not a date/,
  ])
  await expect(page.locator('td.wrong')).toHaveText([/^nobody/, /^31\.02\.2026/])
  await expect(page.locator('[data-test=import]')).toHaveCount(0)
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save the faulty rows' }).click(),
  ])
  expect(readFileSync(await saved.path(), 'utf8')).toMatch(/MAP-3.*nobody.*customer: there is no customer/)
  // Mended, and posted against opening balances.
  await give(rows.map(r => r.replace('nobody;31.02.2026', '2001;28.02.2026')))
  await page.getByLabel(/They were open before/).check()
  await expect(
    page.getByRole('heading', { name: /Ready: 3 rows to import, 1 row over nothing/ }),
  ).toBeVisible()
  await page.locator('[data-test=import]').click()
  await expect(page.locator('[data-test=said]')).toContainText('3 documents imported')
  // The next of its kind is known.
  await give(rows.map(r => r.replace('MAP', 'NXT').replace('nobody;31.02.2026', '2001;28.02.2026')))
  await expect(page.getByText(/as you read such a file before/)).toBeVisible()
})
