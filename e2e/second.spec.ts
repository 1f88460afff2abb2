import { expect, test, type Page } from '@playwright/test'
import { baseline, SORREL, startBusiness, type Business } from '../packages/server/test/second/business.ts'
import { checkEveryAmount, openEveryAmount, runBy, runEnds, settled, signIn } from './axion.ts'

/** The second business, whose bridges and amounts come from docs/bridge.md and from hand, through the screens. */
test.describe.configure({ mode: 'serial' })

const AT = `/${SORREL.id}/2026-09`
let business: Business
let page: Page
test.beforeAll(async ({ browser }) => {
  const [ledger = 0, counter = 0, harbour = 0] = (process.env['AXION_E2E_PORTS'] ?? '').split(',').map(Number)
  business = await startBusiness([ledger, counter, harbour])
  page = await (await browser.newContext()).newPage()
  await signIn(page, 'admin')
  const send = async (method: string, path: string, data: object): Promise<void> => {
    const answer = await page.request.fetch(`/api/entities${path}`, {
      method,
      data,
      headers: { 'x-axion-request': 'second' },
    })
    expect(answer.ok(), await answer.text()).toBe(true)
  }
  await send('POST', '', SORREL)
  await send('PUT', `/${SORREL.id}/months/2026-09/baseline`, baseline)
  for (const [id, how] of business.systems) await send('PUT', `/${SORREL.id}/systems/${id}`, how)
})
test.afterAll(() => Promise.all([page.context().close(), business.close()]))

const verdict = () => page.locator('[data-verdict]')
async function open(path: string): Promise<void> {
  await page.goto(AT + path)
  await settled(page)
}

test('is pulled and linked', async () => {
  await page.goto('/practice')
  await expect(page.locator(`[data-entity="${SORREL.id}"]`)).toContainText(SORREL.name)
  await open('/connect')
  await expect(verdict()).toContainText('Not known yet')
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await expect(page.locator('[data-state="fails"]')).toHaveCount(0)
  await open('/align/agencies')
  await page.getByRole('button', { name: /^Every kind: accept/ }).click()
  await expect(page.getByRole('button', { name: /^Every kind/ })).toHaveCount(0)
  // The ledger in Python knows one agency by a name of its own.
  const theirs = page.locator('[data-extra="gSTATE"]')
  await theirs.getByLabel(/^What/).fill('Kavir Tax Authority')
  await theirs.getByLabel(/^What/).press('Tab')
  await theirs.getByRole('button', { name: 'Link' }).click()
  await expect(theirs).toHaveCount(0)
})

test('is rehearsed, and posted after a look at what moves in both currencies', async () => {
  await open('/post')
  await runBy(page, () => page.getByRole('button', { name: /^Rehearse 7/ }).click())
  await expect(page.locator('tr[data-number="CB-4"]')).toContainText('1,483 JPY')
  await expect(page.locator('tr[data-number="CB-4"]')).toContainText('3.040')
  await page.getByRole('button', { name: 'Post 7 documents' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('3.841 KWD of tax in 37.872 go to Books')
  await expect(dialog).toContainText('in JPY')
  await expect(dialog.locator('[data-remarked]')).toContainText('1 document, with 0.500 of tax')
  await dialog.locator('[data-confirm]').click()
  await runEnds(page)
  await runBy(page, () => page.getByRole('button', { name: 'Pull, to see what is booked' }).click())
  await expect(verdict()).toContainText('Yes. The ledger’s journal shows all 7 documents')
})

test('is proved but for the one that was charged at another rate; every amount opens', async () => {
  await open('/tie-out')
  await expect(page.locator('.verdict')).toContainText('1.000 of 4.841 KWD not proved: 1 document, 1 cause')
  await expect(page.locator('[data-cause]')).toHaveCount(1)
  expect(await openEveryAmount(page)).toBeGreaterThan(5)
  for (const path of ['/tie-out?show=all', '', '/post']) {
    await open(path)
    expect(await checkEveryAmount(page), path).toBeGreaterThan(5)
  }
  await open('')
  await expect(page.locator('.verdict')).toContainText('1.000')
  await expect(page.getByText('Kavir Tax Authority')).toBeVisible()
})

test('is whole once the charge is right at its source and booked again', async () => {
  business.correct()
  await open('/tie-out')
  await runBy(page, () => page.getByRole('button', { name: 'Pull and prove again' }).click())
  await page.getByRole('button', { name: /^Mend 1/ }).click()
  await page
    .locator('[data-mend]')
    .getByRole('button', { name: /^Send|^Book|^Post/ })
    .click()
  await runEnds(page)
  await expect(page.locator('.verdict')).toContainText('Yes')
  await expect(page.locator('.verdict')).toContainText('7 documents')
})
