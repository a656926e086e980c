import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { request as plainRequest } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { request as requests } from '@playwright/test'
import { startApplication, stopApplication } from './application'
import { expect, press, test, type } from './base'
import { openWorld, PASSWORD, type World } from './world'

let world: World
test.setTimeout(120_000)
test.beforeAll(async () => {
  world = await openWorld({ BILANCIO_METRICS_TOKEN: 'for-the-watch', BILANCIO_LOG: 'info' })
})
test.afterAll(() => world.close())

/** One request with a Host header of its own, as a page elsewhere whose name points at us would send it. */
function withHost(host: string, path: string): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    plainRequest({ host: '127.0.0.1', port: world.app.port, path, headers: { host } }, answer => {
      let text = ''
      answer.on('data', (chunk: Buffer) => (text += chunk.toString()))
      answer.on('end', () => resolve({ status: answer.statusCode!, text }))
    })
      .once('error', reject)
      .end()
  })
}

test('only our own names are answered, pages and requests alike; Setup lists more', async () => {
  for (const path of ['/', '/api/health', '/api/session'])
    expect([path, (await withHost('evil.example', path)).status]).toEqual([path, 421])
  const access = { idleMinutes: 60, absoluteHours: 12, hosts: ['desk.example'], proxies: [] }
  const put = (by: World['as']['cash'], change: object) =>
    by.put('/api/settings', { data: { access: { ...access, ...change } } })
  expect((await put(world.as.supervisor, {})).status()).toBe(403)
  expect((await put(world.as.administrator, { proxies: ['not an address'] })).status()).toBe(422)
  expect((await put(world.as.administrator, {})).status()).toBe(200)
  expect((await withHost('desk.example:443', '/api/health')).status).toBe(200)
  expect((await withHost('evil.example', '/api/health')).status).toBe(421)
})

test('X-Forwarded-For counts only from a proxy that Setup names', async () => {
  const { administrator } = world.as
  const networkOf = async (forwarded: string) => {
    const context = await requests.newContext({
      baseURL: world.app.url,
      extraHTTPHeaders: { 'x-forwarded-for': forwarded },
    })
    const signedIn = await context.post('/api/session', {
      data: { email: 'auditor@world.example', password: PASSWORD },
    })
    expect(signedIn.status()).toBe(200)
    const { items } = (await (await context.get('/api/session/all')).json()) as {
      items: { current: boolean; network: string }[]
    }
    await context.dispose()
    return items.find(s => s.current)!.network
  }
  expect(await networkOf('198.51.100.7')).toBe('127.0.0.1')
  const access = { idleMinutes: 60, absoluteHours: 12, hosts: [], proxies: ['127.0.0.0/8'] }
  expect((await administrator.put('/api/settings', { data: { access } })).status()).toBe(200)
  expect(await networkOf('203.0.113.9, 198.51.100.7')).toBe('198.51.100.7')
})

test('metrics for the token only; the log has requests, and nobody’s name', async ({ request }) => {
  expect((await request.get(`${world.app.url}/api/metrics`)).status()).toBe(401)
  const answer = await request.get(`${world.app.url}/api/metrics`, {
    headers: { authorization: 'Bearer for-the-watch' },
  })
  expect(answer.headers()['content-type']).toContain('text/plain')
  const text = await answer.text()
  expect(text).toContain('# TYPE bilancio_request_seconds histogram')
  expect(text).toMatch(/bilancio_state\{what="entries"\} \d+/)
  const { cash } = world.as
  const asked = await cash.get('/api/accounts/K1?asOf=2026-01-01')
  const id = asked.headers()['x-request-id']!
  await expect.poll(() => world.app.output()).toContain(id)
  const line = world.app
    .output()
    .split('\n')
    .find(l => l.includes(id))!
  expect(JSON.parse(line)).toMatchObject({ route: '/api/accounts/{number}', status: 200, request: id })
  for (const personal of ['Hollin', 'K1', '@world.example', PASSWORD, '198.51.100'])
    expect(
      world.app
        .output()
        .split('\n')
        .filter(l => l.startsWith('{'))
        .join(),
    ).not.toContain(personal)
})

test('a person given a password signs in, mistypes, chooses their own, and finds where they are signed in', async ({
  page,
}) => {
  const person = {
    name: 'Nell Tarn',
    email: 'nell@world.example',
    role: 'cash',
    password: 'given by another',
  }
  expect((await world.as.administrator.post('/api/people', { data: person })).status()).toBe(201)
  await page.goto(`${world.app.url}/receipts`)
  await page.waitForURL(/sign-in/)
  await type(page, person.email)
  await press(page, 'Tab')
  await type(page, person.password)
  await press(page, 'Enter')
  await expect(page.getByText('Choose your password')).toBeVisible()
  // Nothing else opens before: not by its address either.
  await page.goto(`${world.app.url}/aging`)
  await page.waitForURL(/sign-in/)
  await type(page, person.email)
  await press(page, 'Tab')
  await type(page, person.password)
  await press(page, 'Enter')
  await expect(page.getByLabel('New password')).toBeFocused()
  await type(page, 'kelp under the tide')
  await press(page, 'Tab')
  await type(page, 'kelp under the tied')
  await press(page, 'Enter')
  await expect(page.getByRole('alert')).toContainText('not the same')
  await page.getByLabel('The same again').fill('kelp under the tide')
  await press(page, 'Enter')
  await page.waitForURL(u => u.pathname === '/aging')
  await page.goto(`${world.app.url}/setup/you`)
  await expect(page.getByText('here and now')).toBeVisible()
  await page.getByTestId('person').or(page.locator('[data-test=person]')).first().click()
  await page.getByText('Sign out', { exact: true }).click()
  await page.waitForURL(/sign-in/)
  await page.goto(`${world.app.url}/aging`)
  await page.waitForURL(/sign-in/)
})

test('the administrator gives a new password; the auditor reads that in the trail', async ({ page }) => {
  const enter = async (email: string) => {
    await page.goto(`${world.app.url}/sign-in`)
    await page.getByLabel('E-mail').fill(email)
    await page.getByLabel('Password').fill(PASSWORD)
    await press(page, 'Enter')
    await page.waitForURL(u => !u.pathname.includes('sign-in'))
  }
  await enter('administrator@world.example')
  await page.goto(`${world.app.url}/setup/people`)
  const row = page.getByRole('row', { name: /treasurer@world.example/ })
  await row.getByRole('button', { name: 'New password' }).click()
  await type(page, 'tern on the rocks')
  await press(page, 'Enter')
  await expect(row.getByText('has not chosen a password yet')).toBeVisible()
  await page.context().clearCookies()
  await enter('auditor@world.example')
  await page.goto(`${world.app.url}/books/audit`)
  await page.getByLabel('What').selectOption({ label: 'Person' })
  await expect(page.getByRole('row', { name: /treasurer@world.example/ }).first()).toBeVisible()
  await page
    .getByRole('row', { name: /treasurer@world.example/ })
    .first()
    .click()
  await press(page, 'Enter')
  await expect(page.getByText('passwordChanged: true').first()).toBeVisible()
})

test('with a certificate: HTTPS, a cookie bound to the host, HSTS; without one no other machine is let in', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-tls-'))
  const [cert, key] = [join(folder, 'cert.pem'), join(folder, 'key.pem')]
  execFileSync(
    'openssl',
    `req -x509 -newkey ec -pkeyopt ec_paramgen_curve:prime256v1 -nodes -days 2 -subj /CN=localhost
      -keyout ${key} -out ${cert}`.split(/\s+/),
    { stdio: 'ignore' },
  )
  const app = await startApplication({
    BILANCIO_DEMO: '0',
    BILANCIO_TLS_CERT: cert,
    BILANCIO_TLS_KEY: key,
  })
  const password = /with the password (\S+)\./.exec(app.output())![1]!
  const secure = await requests.newContext({
    baseURL: app.url.replace('http:', 'https:'),
    ignoreHTTPSErrors: true,
  })
  const answer = await secure.post('/api/session', {
    data: { email: 'administrator@bilancio.example', password },
  })
  expect(answer.status()).toBe(200)
  expect(answer.headers()['strict-transport-security']).toBe('max-age=31536000; includeSubDomains')
  expect(answer.headers()['set-cookie']).toMatch(
    /^__Host-bilancio=.*; Path=\/; HttpOnly; Secure; SameSite=Strict/,
  )
  expect((await secure.get('/api/session')).status()).toBe(200)
  await secure.dispose()
  await stopApplication(app)
  rmSync(app.data, { recursive: true, force: true })

  writeFileSync(key, 'no key')
  for (const [env, told] of [
    [{ BILANCIO_LISTEN: '0.0.0.0' }, /is reached from other machines: give a certificate/],
    [{ BILANCIO_TLS_CERT: cert }, /go together: name both files/],
    [{ BILANCIO_TLS_CERT: cert, BILANCIO_TLS_KEY: key }, /do not fit/],
    [{ BILANCIO_TLS_CERT: join(folder, 'none'), BILANCIO_TLS_KEY: key }, /cannot be read/],
  ] as const) {
    const refused = await startApplication({ BILANCIO_DEMO: '0', ...env })
    expect(await refused.ended).toBe(1)
    expect(refused.output()).toMatch(told)
    rmSync(refused.data, { recursive: true, force: true })
  }
  rmSync(folder, { recursive: true, force: true })
})
