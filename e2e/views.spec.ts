import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { checkEveryAmount, ENTITY, openEveryAmount, settled, signIn } from './axion.ts'

const VIEWS = [
  ['the close sheet', ''],
  ['Connect', '/connect'],
  ['Align, combined rates', '/align/rates?row=WN-PLX'],
  ['Align, agencies', '/align/agencies?row=HCT'],
  ['Align, items', '/align/items?sort=findings&row=SUIT-V'],
  ['Align, parties', '/align/parties?row=cus_ostler'],
  ['Align, accounts', '/align/accounts'],
  ['Align, line rules', '/align/rules'],
  ['Opening', '/align/opening'],
  ['Spreadsheets', '/spreadsheets'],
  ['What changed there', '/changes'],
  ['Post', '/post?search=LA-20887'],
  ['Tie out', '/tie-out?show=all&search=LA-20887'],
  [
    'an open chain',
    '/tie-out?show=all&search=LA-20887&open=of%3Dtax%26voice%3Dexpected%26unit%3Dbilling%252Finv_20887%26agency%3DCPL',
  ],
  ['an open total', '/?open=of%3Dtax%26voice%3Dexpected'],
  ['People', '/people'],
  ['the audit trail', '/trail'],
  ['evidence in its own window', '/evidence?open=of%3Dtotal%26unit%3Dbilling%252Finv_20887'],
] as const

/** What a theme changes is colours: what rests on them is looked at in both, the rest once. */
const LOOKED_AT = { light: {}, dark: { runOnly: ['color-contrast', 'link-in-text-block'] } }

for (const theme of ['light', 'dark'] as const) {
  test(`no view has a serious fault for those who cannot see or point, ${theme}`, async ({ browser }) => {
    const context = await browser.newContext({ colorScheme: theme, viewport: { width: 1280, height: 800 } })
    const page = await context.newPage()
    await page.goto('/sign-in')
    const faults: string[] = []
    const look = async (name: string): Promise<void> => {
      const { violations } = await new AxeBuilder({ page })
        .options({ resultTypes: ['violations'], ...LOOKED_AT[theme] })
        .analyze()
      faults.push(
        ...violations
          .filter((v) => v.impact === 'serious' || v.impact === 'critical')
          .map(
            (v) =>
              `${name}: ${v.id} at ${v.nodes
                .map((n) => n.target.join(' '))
                .slice(0, 3)
                .join(', ')}`,
          ),
      )
    }
    await look('sign-in')
    await signIn(page)
    for (const [name, path] of VIEWS) {
      await page.goto(ENTITY + path)
      await settled(page)
      await look(name)
    }
    await page.goto('/practice')
    await expect(page.locator('[data-entity]').first()).toBeVisible()
    await look('the practice board')
    await page.goto(ENTITY)
    await settled(page)
    for (const [key, name] of [
      ['?', 'Keys on this page'],
      ['Control+k', 'Find anything'],
    ] as const) {
      await page.keyboard.press(key)
      await expect(page.getByRole('dialog', { name })).toBeVisible()
      await look(name)
      await page.keyboard.press('Escape')
      await expect(page.getByRole('dialog', { name })).toBeHidden()
    }
    expect(faults).toEqual([])
    await context.close()
  })
}

test('nothing scrolls sideways from 1024 wide, and a main table shows fifteen rows', async ({ page }) => {
  await signIn(page)
  for (const width of [1024, 1280]) {
    await page.setViewportSize({ width, height: 800 })
    for (const [name, path] of VIEWS) {
      await page.goto(ENTITY + path)
      await settled(page)
      expect(
        await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
        `${name} at ${width}`,
      ).toBeLessThanOrEqual(0)
    }
  }
  for (const path of ['/post', '/tie-out?show=all']) {
    await page.goto(ENTITY + path)
    await expect(page.locator('tbody tr').nth(20)).toBeAttached()
    const seen = await page
      .locator('.scroll tbody tr')
      .evaluateAll(
        (rows) =>
          rows.filter(
            (row) =>
              row.getBoundingClientRect().bottom <=
              (row.closest('.scroll')?.getBoundingClientRect().bottom ?? 0),
          ).length,
      )
    expect(seen, path).toBeGreaterThanOrEqual(15)
  }
})

test('every amount on every main view of the proved month opens to its evidence', async ({ page }) => {
  await signIn(page)
  for (const path of ['', '/align/rates', '/post?search=LA-20887', '/tie-out?show=not-posted&search=Q-50']) {
    await page.goto(ENTITY + path)
    await expect(page.locator('tbody tr').first()).toBeVisible()
    await openEveryAmount(page)
  }
  for (const path of ['/post', '/tie-out?show=all']) {
    await page.goto(ENTITY + path)
    await settled(page)
    expect(await checkEveryAmount(page)).toBeGreaterThan(250)
  }
})

test('a view and what is open in it are one link; whoever may not see it is told so', async ({ page }) => {
  await page.goto(`${ENTITY}/tie-out?show=all&search=LA-20887&open=of%3Dtotal%26unit%3Dbilling%252Finv_20887`)
  await expect(page).toHaveURL(/sign-in/)
  await page.getByLabel('E-mail address').fill('viewer@larkspur.example')
  await page.getByLabel('Password').fill('hive-and-honey')
  await page.getByRole('button', { name: 'Sign in' }).click()
  await expect(page.locator('[data-evidence="chain"]')).toContainText('LA-20887')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Pull and prove again' }).click()
  await expect(page.getByRole('alert')).toContainText('needs the role of a preparer')
  await page.goto('/nobody/2026-09')
  await expect(page.getByText('There is no such page')).toBeVisible()
})

test('finds a document from anywhere, by keyboard alone', async ({ page }) => {
  await signIn(page)
  await page.keyboard.press('Control+k')
  await page.getByLabel('A document, a party, a page').fill('LA-20890')
  await expect(page.locator('li.chosen')).toContainText('LA-20890')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/tie-out.*LA-20890/)
  await expect(page.locator('[data-evidence]')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+k')
  await page.getByLabel('A document, a party, a page').fill('Q-5001')
  await expect(page.locator('li.chosen')).toContainText('not posted yet')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-evidence="chain"]')).toContainText('are not posted yet')
})
