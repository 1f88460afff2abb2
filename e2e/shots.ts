import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { KeepPreview, TieOutView } from '@axion/contract'
import { expect, test, type Page } from '@playwright/test'
import { ENTITY, runBy, settled, signIn } from './axion.ts'
import { beginBridges } from './madeup.ts'

const FOLDER = process.env['AXION_SHOTS'] ?? 'docs/screenshots'

/** Goes to a view, waits for it, and takes its picture. */
async function take(page: Page, name: string, path: string): Promise<void> {
  await page.goto(ENTITY + path)
  await settled(page)
  await snap(page, name)
}

async function snap(page: Page, name: string): Promise<void> {
  await expect(page.getByText('Reading', { exact: true })).toHaveCount(0)
  await page.evaluate(() => document.fonts.ready)
  await page.mouse.move(640, 795)
  await page.screenshot({ path: `${FOLDER}/${name}.png`, animations: 'disabled' })
}

/** Rules on their way: what is typed by hand on Fernhollow's invoices, and what the rules for it would have changed. */
async function takeRules(page: Page): Promise<void> {
  const there = '/fernhollow/2026-09'
  await page.goto(`${there}/connect`)
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await page.goto(`${there}/align/rates`)
  await page.getByRole('button', { name: /^Accept/ }).click()
  await expect(page.getByRole('button', { name: /^Accept/ })).toHaveCount(0)
  await page.goto(`${there}/align/rules`)
  await settled(page)
  for (const [button, code, account] of [
    ['Change Wrapping handed on', 'WARE', '4090'],
    ['A rule for Deposit, returnable crate', 'DEPOSIT', '2600'],
  ] as const) {
    await page.getByRole('button', { name: button }).click()
    await page.locator('[data-then="itemTaxCode"]').selectOption(code)
    await page.locator('[data-then="account"]').selectOption(account)
    await page.getByRole('button', { name: 'Put it in the list' }).click()
  }
  await page.getByRole('button', { name: 'Try on the past' }).click()
  await page.locator('[data-tried]').waitFor()
  await snap(page, 'align-rules')
}

/** Differences of what was charged that a preparer keeps, for a reviewer to agree to. */
async function keepSome(page: Page): Promise<void> {
  const at = '/api/entities/larkspur/months/2026-09/tie-out'
  const headers = { 'x-axion-request': 'shots' }
  const { causes } = (await (await page.request.get(at)).json()) as TieOutView
  for (const { key } of causes.filter((cause) => cause.keepable > 0).slice(0, 3)) {
    const query = `cause=${encodeURIComponent(key)}`
    const { revision } = (await (await page.request.get(`${at}/kept/preview?${query}`)).json()) as KeepPreview
    const data = { cause: key, reason: 'Less than what a credit note costs; told the customer', revision }
    await page.request.post(`${at}/kept`, { headers, data })
  }
}

/** What is decided of a business that has no baseline yet, by whoever runs the practice. */
async function takeDecisions(page: Page): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'axion-made-'))
  const ports = (process.env['AXION_E2E_PORTS'] ?? '').split(',').map(Number)
  const bridges = await beginBridges(folder, () => Promise.resolve(ports.pop() ?? 0))
  try {
    await page.request.delete('/api/session', { headers: { 'x-axion-request': 'shots' } })
    await signIn(page, 'admin')
    const headers = { 'x-axion-request': 'shots' }
    await page.request.post('/api/entities', {
      headers,
      data: {
        ...{ id: 'sorrel', name: 'Sorrel Mill', country: 'XQ', currency: 'USD' },
        ...{ timeZone: 'UTC', locale: 'en-US', yearBegins: 1 },
      },
    })
    for (const { role, name, url: address, token } of bridges)
      await page.request.put(`/api/entities/sorrel/systems/${role}`, {
        headers,
        data: { role, name, address, token },
      })
    await page.goto('/sorrel/2026-09/connect')
    await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
    await page.goto('/sorrel/2026-09/align/decisions')
    await page.locator('[data-explained]').waitFor()
    await snap(page, 'align-decisions')
  } finally {
    for (const { child } of bridges) child.kill('SIGKILL')
    rmSync(folder, { recursive: true, force: true })
  }
}

test('pictures of the main views', async ({ page }) => {
  await signIn(page)
  await takeRules(page)
  await page.goto('/saltmarsh/2026-09/connect')
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await page.goto(`${ENTITY}/connect`)
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await take(page, 'connect', '/connect')
  const [desk] = await Promise.all([
    page.waitForEvent('popup'),
    page.locator('[data-check="keeps-numbers"]').getByRole('link').click(),
  ])
  await desk.getByLabel('Document numbers').selectOption('yes')
  // A tab that is closed on its way to another page can hold the browser up.
  await Promise.all([desk.waitForEvent('load'), desk.getByRole('button', { name: 'Save settings' }).click()])
  await desk.close()
  await page.getByRole('button', { name: /Check again/ }).click()
  await page.locator('[data-check="keeps-numbers"][data-state="passes"]').waitFor()

  await page.goto(`${ENTITY}/align/agencies`)
  await page.getByRole('button', { name: /^Accept/ }).click()
  await page.locator('[data-row="WRO"] [data-cell="ledger"][data-state="agrees"]').waitFor()
  await page.goto(`${ENTITY}/align/agencies?row=HCT`)
  await settled(page)
  await page.locator('[data-object]').first().waitFor()
  await page.keyboard.press('a')
  await page.locator('[data-row="HCT"] [data-cell="ledger"][data-state="agrees"]').waitFor()
  await page.goto(`${ENTITY}/align/rates`)
  await page.getByRole('button', { name: /^Accept/ }).click()
  await page.locator('[data-row="WN"] [data-cell="ledger"][data-state="agrees"]').waitFor()
  await page.goto(`${ENTITY}/align/rates?row=WN-FEN`)
  await settled(page)
  await page.locator('.timeline .bar').first().waitFor()
  await snap(page, 'align-rates')
  await page.goto(`${ENTITY}/align/baseline/rateVersions?row=WN`)
  await settled(page)
  await page.locator('[data-act=change]').first().click()
  await page.getByLabel('Percent').fill('6.00')
  await page.getByLabel('From this day on').fill('2026-09-16')
  await page.locator('[data-look]').click()
  await page.locator('[data-effect]').waitFor()
  await snap(page, 'align-baseline')
  await page.getByRole('button', { name: 'Not now' }).click()

  await take(page, 'align-registrations', '/align/registrations')
  await take(page, 'align-items', '/align/items?sort=findings&row=COMB')
  await page.goto(`${ENTITY}/align/opening`)
  await page.locator('[data-account="2400"]').getByRole('button').click()
  await page.getByRole('button', { name: 'Take them as the list' }).click()
  await page.locator('[data-list-sum]').waitFor()
  await snap(page, 'align-opening')
  const sale = new URLSearchParams({
    ...{ country: 'XA', region: 'XA-WN', city: 'Fenwick Falls', postalCode: '40217', sentFrom: 'home' },
    ...{ date: '2026-09-16', item: 'HIVE-10', amount: '3960.00' },
  })
  await page.goto(`${ENTITY}/align/sale?${sale.toString()}`)
  await page.locator('[data-component]').first().waitFor()
  await snap(page, 'align-sale')
  await page.goto(`${ENTITY}/spreadsheets`)
  await settled(page)
  const rows =
    'Article;Description;Tax class\r\nHIVE-12;Cedar hive, twelve frames;GOODS\r\nHIVE-8;Pine hive, 8 frames;GOODS\r\n;Nameless;GOODS\r\nWAX-1;Beeswax, 1 kg block;GOODS\r\n'
  await page.locator('[data-sheet="items"]').getByRole('button', { name: 'Bring a file in' }).click()
  await page
    .getByLabel('File to bring in')
    .setInputFiles({ name: 'autumn-items.csv', mimeType: 'text/csv', buffer: Buffer.from(rows) })
  await page.locator('[data-import="mapping"]').waitFor()
  for (const [column, from] of [
    ['Code', 'Article'],
    ['Name', 'Description'],
    ['Item tax code', 'Tax class'],
  ] as const)
    await page.getByLabel(`${column} is taken from`, { exact: true }).selectOption({ label: from })
  await runBy(page, () => page.locator('[data-check]').click())
  await page.locator('[data-import="read"]').waitFor()
  await snap(page, 'spreadsheets')

  await page.goto(`${ENTITY}/post`)
  await runBy(page, () => page.getByRole('button', { name: /^Rehearse/ }).click())
  await page.getByRole('button', { name: 'Post a handful of 5' }).click()
  await runBy(page, () => page.locator('[data-confirm]').click())
  await page.getByRole('button', { name: /^Post 1\d\d documents/ }).click()
  await page.locator('[data-foretold]').waitFor()
  await snap(page, 'post-foretold')
  await runBy(page, () => page.locator('[data-confirm]').click())
  await take(page, 'post', '/post')
  await page.goto(`${ENTITY}/align/rates`)
  await page.locator('[data-extra="rate_typed"]').getByRole('button', { name: 'Link' }).click()
  await page.locator('[data-extra="rate_typed"]').waitFor({ state: 'detached' })
  await page.goto(`${ENTITY}/post`)
  await page.getByRole('button', { name: 'Retry 1 failed' }).click()
  await runBy(page, () => page.locator('[data-confirm]').click())
  await runBy(page, () => page.getByRole('button', { name: /^Pull, to see/ }).click())

  await take(page, 'tie-out', '/tie-out')
  await page.locator('[data-cause]').first().waitFor()
  for (let at = 0; at < 3; at++) await page.keyboard.press('n')
  await page.locator('tr.chosen[data-cause]').waitFor()
  await page.keyboard.press('m')
  await page.getByRole('radio', { name: /^Write correcting/ }).check()
  await page.getByRole('button', { name: /^Write \d+ correcting/ }).waitFor()
  await snap(page, 'mend')
  await page.getByRole('button', { name: /^Leave it/ }).click()
  await page.goto(ENTITY)
  await settled(page)
  await page.locator('tbody tr').first().waitFor()
  for (let causes = 0; causes < 3; causes++) {
    await page.keyboard.press('n')
    await page.locator('[data-evidence="chain"]').waitFor()
    if (
      await page
        .locator('[data-evidence="chain"]')
        .filter({ hasText: /Hollis County at 1\.25\s%/ })
        .waitFor({ timeout: 2000 })
        .then(
          () => true,
          () => false,
        )
    )
      break
  }
  await snap(page, 'close-sheet')
  await take(
    page,
    'evidence-currency',
    '/tie-out?search=LA-20893&open=of%3Dtotal%26unit%3Dbilling%252Finv_20893',
  )
  await keepSome(page)
  await page.goto(`${ENTITY}/tie-out?apart=yes`)
  await page.locator('[data-kept-unit]').first().waitFor()
  await snap(page, 'standing-apart')
  await page.goto('/practice')
  await page.locator('[data-entity]').first().waitFor()
  await snap(page, 'practice')
  await page.evaluate(() => localStorage.setItem('axion-theme', 'dark'))
  await take(page, 'tie-out-dark', '/tie-out?cause=booked%3A%20sign')
  await page.evaluate(() => localStorage.removeItem('axion-theme'))
  await takeDecisions(page)
})
