import type { RulesView } from '@axion/contract'
import { FERNHOLLOW_AMOUNTS } from '@axion/demo'
import { expect, test, type Locator, type Page } from '@playwright/test'
import { runBy, settled, signIn } from './axion.ts'

test.describe.configure({ mode: 'serial' })

const FERNHOLLOW = '/fernhollow/2026-09'
let page: Page
test.beforeAll(async ({ browser }) => {
  page = await (await browser.newContext()).newPage()
  await signIn(page, 'admin')
})
test.afterAll(() => page.context().close())

const typed = (wording: string): Locator => page.locator(`[data-group$="${wording}"]`)
async function open(path: string): Promise<void> {
  await page.goto(FERNHOLLOW + path)
  await settled(page)
}

test('what is typed on invoices by hand is open until somebody decides it', async () => {
  await open('/connect')
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  for (const kind of ['agencies', 'rates']) {
    await open(`/align/${kind}`)
    await page.getByRole('button', { name: /^Accept \d+ clear links?/ }).click()
    await expect(page.getByRole('button', { name: /^Accept/ })).toHaveCount(0)
  }
  await page.getByRole('link', { name: 'Line rules' }).click()
  await expect(page.locator('[data-verdict]')).toContainText('No: 3 kinds')
  for (const wording of ['Gift wrapping', 'Deposit, returnable crate', 'Sundries from the market'])
    await expect(typed(wording)).toContainText('no treatment')
  const { groups } = (await (
    await page.request.get(`/api/entities/fernhollow/months/2026-09/rules`)
  ).json()) as RulesView
  expect(
    groups
      .flatMap((group) =>
        group.findings.map((finding) => [group.system, group.wording, finding.code].join(' | ')),
      )
      .sort(),
  ).toEqual(FERNHOLLOW_AMOUNTS.map((one) => one.join(' | ')).sort())
})

test('rules are tried on the past, then kept, and decide what is posted', async () => {
  for (const [wording, code, account] of [
    ['Gift wrapping', 'WARE', '4090'],
    ['Deposit, returnable crate', 'DEPOSIT', '2600'],
    ['Sundries from the market', 'WARE', '5000'],
  ] as const) {
    // The wrapping has a rule, which books it as a cost.
    await (
      wording === 'Gift wrapping'
        ? page.getByRole('button', { name: 'Change Wrapping handed on' })
        : typed(wording).getByRole('button', { name: `A rule for ${wording}` })
    ).click()
    await page.locator('[data-then="itemTaxCode"]').selectOption(code)
    await page.locator('[data-then="account"]').selectOption(account)
    await page.getByRole('button', { name: 'Put it in the list' }).click()
  }
  await page.getByRole('button', { name: 'Try on the past' }).click()
  await expect(page.locator('[data-tried]')).toContainText(
    'It would have changed 18 documents of the 82 there are',
  )
  await expect(page.locator('[data-verdict]')).toContainText('No: 3 kinds')
  await page.locator('[data-keep]').click()
  // What two suppliers tax otherwise is theirs to say.
  await expect(page.locator('[data-verdict]')).toContainText('Nearly. 1 finding')
  await typed('Sundries from the market').click()
  const found = page.locator('[data-finding="AXION_AMOUNT_MIXED"]')
  await found.getByRole('button', { name: 'Leave it' }).click()
  await page.getByLabel('Why it is left').fill('One of the two suppliers is not registered')
  await found.locator('form').getByRole('button', { name: 'Leave it' }).click()
  await expect(page.locator('[data-verdict]')).toContainText('Yes. 3 kinds')
  await page.locator('[data-rule="R1"] .amount').click()
  await expect(page.locator('[data-evidence="members"]')).toContainText('8 parts that sum to')
  await page.keyboard.press('Escape')
  await open('/post')
  await runBy(page, () => page.getByRole('button', { name: /^Rehearse/ }).click())
  await expect(page.locator('.verdict')).not.toContainText('blocked')
})

test('a scope leaves documents out only as it was seen, and takes them back in', async () => {
  await open('/connect')
  const panel = page.locator('[data-scope="billing"]')
  await panel.locator('summary').click()
  await panel.locator('[data-from]').fill('2026-09-16')
  await panel.locator('[data-from]').dispatchEvent('change')
  await panel.getByRole('button', { name: 'See what this does' }).click()
  await expect(panel.locator('[data-preview]')).toContainText(
    /Over all months \d+ documents over [\d.,]+, [\d.,]+ of it tax would be left out/,
  )
  await panel.getByRole('button', { name: 'Keep this scope' }).click()
  await expect(panel.locator('[data-left-out]')).toContainText('left out of the month')
  await open('/post')
  await expect(page.locator('main')).toContainText('too early')
  await open('/connect')
  await panel.locator('summary').click()
  await panel.locator('[data-from]').fill('')
  await panel.locator('[data-from]').dispatchEvent('change')
  await panel.getByRole('button', { name: 'See what this does' }).click()
  await expect(panel.locator('[data-preview]')).toContainText('would come in')
  await panel.getByRole('button', { name: 'Keep this scope' }).click()
  await expect(panel.locator('[data-left-out]')).toHaveCount(0)
})
