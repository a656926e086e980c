import type { Page } from '@playwright/test'
import { writeCamt } from '../../formats/statements'
import { chooseFile, expect, press, signIn, test, type } from './base'

const jump = async (page: Page, words: string, heading: string) => {
  await press(page, '/')
  await type(page, words)
  await expect(page.getByRole('option').first()).toContainText(new RegExp(heading, 'i'))
  await press(page, 'Enter')
  await expect(page.getByRole('heading', { name: heading, level: 1 })).toBeVisible()
  await expect(page.getByRole('listbox')).toHaveCount(0)
  await expect(page.locator('[data-test=jump]')).not.toBeFocused()
}
const said = (page: Page) => page.locator('[data-test=said]')
const chooseCustomer = async (page: Page, name: string) => {
  await expect(page.locator('[data-test=customer]')).toBeFocused()
  await type(page, name)
  await expect(page.getByRole('option').first()).toContainText(name)
  await press(page, 'Enter')
}

test('a morning’s cash with the keyboard alone: statements, a cheque batch, a banking, three corrections', async ({
  page,
}) => {
  test.setTimeout(240_000)
  await signIn(page.request, 'cash')
  await page.goto('/')
  await expect(page.getByText('files from the bank')).toBeVisible()

  // Statements: the clear lines are taken, the rest is worked from the top.
  await jump(page, 'bank', 'Bank')
  await expect(page.getByRole('button', { name: /Load 5 files/ })).toBeVisible()
  await press(page, 'l')
  await expect(page.locator('[data-test=taken]')).toContainText(
    /\d+ new lines: \d+ taken automatically, \d+ to work/,
  )
  const left = async () =>
    Number(
      (await page.request.get('/api/banking/lines?state=open&limit=1')).ok()
        ? (
            (await (await page.request.get('/api/banking/lines?state=open&limit=1')).json()) as {
              count: number
            }
          ).count
        : -1,
    )
  let n = await left()
  expect(n).toBeGreaterThan(3)
  expect(n).toBeLessThan(25)
  for (; n > 0; n--) {
    await expect(page.getByText(`${n} line${n === 1 ? '' : 's'} to work`, { exact: true })).toBeVisible()
    const region = page.locator('[data-test=line]')
    const row = page.locator('tbody tr.on')
    await expect(row).toHaveCount(1)
    // What stands below is of this line, not of the one before.
    await expect(region).toHaveAttribute('data-line', (await row.getAttribute('data-row'))!)
    if (await row.getByText('nothing proposed').count()) {
      // Not a customer's: to sundry income, and remembered.
      await press(page, 'Enter')
      await expect(page.getByRole('radio', { name: /Not a customer/ })).toBeVisible()
      await press(page, 'l')
      await expect(page.locator('#to')).toBeFocused()
      await type(page, '4900')
      await expect(page.locator('#to')).toHaveValue('4900')
      // A look at the customers, and back: what was said is still there.
      await page.getByRole('radio', { name: /A customer paid/ }).click()
      await expect(page.locator('#to')).toHaveCount(0)
      await page.getByRole('radio', { name: /Not a customer/ }).click()
      await expect(page.locator('#to')).toHaveValue('4900')
    } else {
      await expect(region).toContainText('%')
      if (await region.getByText('Equally good answers').count()) await press(page, 'p')
    }
    await expect(page.locator('[data-test=post]')).toBeEnabled()
    await press(page, 'Control+Enter')
    await expect(
      page.getByText(n > 1 ? `${n - 1} line${n === 2 ? '' : 's'} to work` : 'every line is worked', {
        exact: true,
      }),
    ).toBeVisible()
  }
  await expect(page.locator('[data-test=reconciled]')).toHaveText(
    /EUR.*agrees.*GBP.*agrees.*NOK.*agrees.*USD.*agrees.*JPY.*agrees/,
  )

  // A batch of two cheques against its control total.
  await jump(page, 'batches', 'Batches')
  await press(page, 'o')
  await expect(page.locator('#total')).toBeFocused()
  await type(page, '500.00')
  await press(page, 'Enter')
  await expect(page.locator('[data-test=batch]')).toContainText('500.00 to go')
  for (const [customer, amount, number] of [
    ['Oatfield Mills', '320.00', '900101'],
    ['Quernstone', '180.00', '900102'],
  ] as const) {
    await chooseCustomer(page, customer)
    await expect(page.locator('#amount-0')).toBeFocused()
    await type(page, amount)
    await press(page, 'Tab', 'Tab')
    await type(page, number)
    await press(page, 'Escape', 'a')
    await expect(page.locator('[data-test=post]')).toBeEnabled()
    await press(page, 'Control+Enter')
    await expect(said(page)).toContainText(`${amount} from ${customer}`)
  }
  await expect(page.locator('[data-test=to-go]')).toHaveText('0.00 to go')
  await said(page).getByRole('link', { name: 'The batch' }).focus()
  await press(page, 'Enter')
  await expect(page.locator('[data-test=close]')).toBeEnabled()
  await page.locator('body').click({ position: { x: 700, y: 20 } })
  await press(page, 'Control+Enter')
  await expect(page.getByRole('heading', { name: /Batch B-0000\d/ })).toBeVisible()
  await expect(said(page)).toContainText('2 receipts posted')

  // To the bank: everything in the tray in euro.
  await jump(page, 'tray', 'Tray')
  await expect(page.locator('tbody tr.on')).toHaveCount(1)
  await press(page, 'End')
  await expect(page.getByText('900101')).toBeVisible()
  await press(page, 'a')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText(/P-\d+/)

  // Three corrections of the cheque 900101: put right, allocated and unallocated, reversed.
  await press(page, '/')
  await type(page, '900101')
  await expect(page.getByRole('option').first()).toContainText('900101')
  await press(page, 'Enter')
  await expect(page.locator('[data-test=state]')).toHaveText(/covered/)
  await expect(page.locator('[data-test=jump]')).not.toBeFocused()
  await press(page, 'c')
  await expect(page.getByLabel('Reason')).toBeFocused()
  await type(page, 'cheque number misread')
  await page.getByLabel('Reference of cheque').fill('900111')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText(/put right as R-/)
  await expect(page.getByText('900111').first()).toBeVisible()
  await press(page, 'l')
  await expect(page.getByRole('heading', { name: /^Use R-/ })).toBeVisible()
  await expect(page.locator('tbody tr').first()).toBeVisible()
  await press(page, 'o')
  await expect(page.locator('[data-test=rest]')).toHaveText('All assigned.')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText('allocated')
  await said(page).getByRole('link').focus()
  await press(page, 'Enter')
  await expect(page.locator('[data-test=state]')).toBeVisible()
  await press(page, 'u')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText('Unallocated')
  await press(page, 'r')
  await expect(page.getByLabel('Reason')).toBeFocused()
  await type(page, 'returned unpaid')
  await page.getByLabel('Bank fee charged on').fill('15.00')
  await expect(page.locator('[data-test=proof]')).toContainText('Bank fees charged on')
  await press(page, 'Control+Enter')
  await expect(page.locator('[data-test=state]')).toHaveText('reversed')

  // The bank account in the ledger equals the statement, to the cent, in every currency.
  const { items } = (await (await page.request.get('/api/banking/accounts')).json()) as {
    items: { difference: number; openLines: number; ledger: number; lastStatement: { closing: number } }[]
  }
  expect(items).toHaveLength(5)
  for (const a of items)
    expect([a.difference, a.openLines, a.ledger]).toEqual([0, 0, a.lastStatement.closing])
})

test('tick sheet: an advice ticks, keys move, the total is in sight, the Proof shows both ways', async ({
  page,
}) => {
  await signIn(page.request, 'controller')
  const { items } = (await (await page.request.get('/api/receipts/open-items?currency=EUR')).json()) as {
    items: { number: string; open: number; customer: string; discount: unknown }[]
  }
  const own = items
    .filter(
      i =>
        i.open > 0 &&
        i.customer ===
          items.find(
            x => items.filter(y => y.customer === x.customer && y.open > 0 && !y.discount).length > 2,
          )!.customer &&
        !i.discount,
    )
    .slice(0, 2)
  await page.goto('/receipts/tick-sheet')
  await expect(page.locator('tbody tr[data-item]').first()).toBeVisible()
  await press(page, ' ')
  await expect(page.locator('[data-test=running]')).not.toHaveText('0.00')
  await press(page, 'x', 'j')
  await expect(page.locator('[data-test=running]')).toHaveText('0.00')
  await chooseFile(page, 'o', {
    name: 'advice.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(
      `number,amount\n${own.map(i => `${i.number},${(i.open / 100).toFixed(2)}`).join('\n')}\nX-1,5.00\n`,
    ),
  })
  await expect(page.getByRole('status').filter({ hasText: 'ticked' })).toContainText(
    '3 lines read, 2 ticked. Not as it says: X-1, we have no document of this number.',
  )
  await expect(page.locator('[data-test=apart]')).toHaveText('5.00 to go')
  await press(page, 'e')
  await expect(page.locator('#expected')).toBeFocused()
  await type(page, (own.reduce((a, i) => a + i.open, 0) / 100).toFixed(2))
  await press(page, 'Escape')
  await expect(page.locator('[data-test=apart]')).toHaveText('agrees')
  const proof = page.getByRole('region', { name: 'Proof' })
  await expect(proof).toContainText('1 receipt, a lump per customer')
  await expect(proof).toContainText('or 2 receipts, one per item')
  await press(page, 'm')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText(/posted as R-\d+ and R-\d+/)
})

test('a file at the wrong door: each refusal says what would be right, nothing is taken', async ({
  page,
}) => {
  await signIn(page.request, 'cash')
  await page.goto('/banking')
  await expect(page.locator('[data-test=reconciled]')).toContainText('EUR')
  const count = async () =>
    ((await (await page.request.get('/api/banking/lines?state=all&limit=1')).json()) as { count: number })
      .count
  const before = await count()
  const whole = writeCamt(
    {
      format: 'camt.053',
      id: 'E1',
      account: 'DE89370400440532013000',
      currency: 'EUR',
      from: '2026-11-13',
      to: '2026-11-13',
      opening: 0,
      closing: 0,
      lines: [],
    },
    '2026-11-13T20:00:00',
  )
  for (const [name, text, word] of [
    ['cut.xml', whole.slice(0, 500), /not whole XML/],
    ['other.xml', whole, /none of ours.*add this bank account|none of ours/],
    ['bomb.xml', whole.replace('?>', '?><!DOCTYPE a [<!ENTITY b "c">]>'), /entities/],
    ['x.csv', 'a,b\n1,2\n', /Choose the account first/],
  ] as const) {
    await chooseFile(page, 'o', { name, mimeType: 'application/octet-stream', buffer: Buffer.from(text) })
    await expect(page.getByRole('alert')).toContainText(word)
  }
  expect(await count()).toBe(before)
})

/** A line of the bank that comes when it is told to, as one to work. */
async function slowLine(page: Page, isWanted: (line: { amount: number }) => boolean) {
  const { items } = (await (await page.request.get('/api/banking/lines?state=settled&limit=500')).json()) as {
    items: { id: number; amount: number }[]
  }
  const line = items.find(isWanted)!
  let isAsked = () => {}
  const asked = new Promise<void>(resolve => (isAsked = resolve))
  let come = () => {}
  const coming = new Promise<void>(resolve => (come = resolve))
  await page.route(`**/api/banking/lines/${line.id}`, async route => {
    const answer = await route.fetch()
    isAsked()
    await coming
    await route.fulfill({
      response: answer,
      json: { ...(await answer.json()), state: 'open', proposal: null },
    })
  })
  await page.goto(`/banking/${line.id}`)
  await asked
  return () => come()
}

test('what a person says a line is stays, however late the line itself comes', async ({ page }) => {
  await signIn(page.request, 'controller')
  // Money out: the screen takes it for nobody's until somebody says otherwise.
  const come = await slowLine(page, l => l.amount < 0)
  const customer = page.getByRole('radio', { name: /A customer paid/ })
  await page.getByRole('radio', { name: /Posted before/ }).click()
  await customer.click()
  come()
  await page.waitForTimeout(800)
  await expect(customer).toBeChecked()
})

test('what is typed before the line comes goes to its fields, lists included', async ({ page }) => {
  await signIn(page.request, 'supervisor')
  const come = await slowLine(page, l => l.amount > 0)
  await expect(page.getByRole('radio', { name: /Not a customer/ })).toBeVisible()
  await press(page, 'l')
  await type(page, '49')
  come()
  await type(page, '00')
  await expect(page.locator('#to')).toHaveValue('4900')
})

test('an advance, a deduction and a rest to refund, from the screen', async ({ page }) => {
  await signIn(page.request, 'controller')
  await page.goto('/receipts/new?customer=2003')
  await expect(page.locator('tbody tr').first()).toBeVisible()
  await type(page, '250.00')
  await press(page, 'h')
  await expect(page.locator('[data-test=proof]')).toContainText('2300 Advances received')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText('AD-00001 posted')
  await page.goto('/receipts/new?customer=2003')
  await expect(page.locator('tbody tr').first()).toBeVisible()
  await type(page, '1.00')
  await press(page, 'Escape', ' ', 'q')
  await expect(page.getByRole('combobox', { name: /is cut short/ })).toHaveValue('price')
  await expect(page.locator('[data-test=post]')).toBeEnabled()
  await press(page, 'Control+Enter')
  await expect(said(page)).toContainText(/R-\d+ posted/)
  await said(page).getByRole('link').click()
  await expect(page.getByText(/Deduction on/)).toBeVisible()
})

test('Setup: a bank account, a rule, the threshold', async ({ page }) => {
  await signIn(page.request, 'supervisor')
  await page.goto('/setup/bank')
  await page.getByLabel('Name of the bank account').fill('Savings')
  await page.getByLabel('IBAN', { exact: true }).fill('NL91ABNA0417164300')
  await page.getByLabel('Ledger account', { exact: true }).fill('1209')
  await page.getByRole('button', { name: 'Add a bank account' }).click()
  await expect(page.getByRole('cell', { name: 'NL91ABNA0417164300' })).toBeVisible()
  await page.getByRole('button', { name: 'Add a bank account' }).click()
  await page.getByLabel('Words').fill('interest')
  await page.getByLabel('Direction').selectOption({ label: 'money in' })
  await page.getByLabel('Ledger account of the rule').selectOption('4900')
  await page.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(page.getByRole('cell', { name: '“interest”' })).toBeVisible()
  await page.getByRole('link', { name: 'Cash', exact: true }).click()
  await page.getByLabel('One wrong posting costs as much as').fill('25')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(said(page)).toContainText('Settings saved')
  expect(
    ((await (await page.request.get('/api/settings')).json()) as { matching: unknown }).matching,
  ).toEqual({ automatic: true, wrongCosts: 25, threshold: 0.96 })
})
