import { expect, test, type Locator, type Page } from '@playwright/test'
import { ENTITY, findingsSeen, runBy, settled, signIn } from './axion.ts'

test.describe.configure({ mode: 'serial', timeout: 1_800_000 })

let page: Page
/** The desk pages of systems that take nothing from others: the people who run them correct what they are told. */
let desk: Page
test.beforeAll(async ({ browser }) => {
  page = await (await browser.newContext()).newPage()
  desk = await (await browser.newContext()).newPage()
  await signIn(page)
})
test.afterAll(() => Promise.all([page.context().close(), desk.context().close()]))

const row = (id: string): Locator => page.locator(`[data-row="${id}"], [data-extra="${id}"]`)

async function open(kind: string, id?: string): Promise<void> {
  await page.goto(`${ENTITY}/align/${kind}`)
  await settled(page)
  if (id !== undefined) await row(id).locator('td').nth(1).click()
}

/** Mends the chosen row's object as the preview says, by the remedy that is named. */
async function mend(kind: string, id: string, within: string, remedy: RegExp): Promise<void> {
  await open(kind, id)
  await page
    .locator(within)
    .getByRole('button', { name: /^(Mend it|Make it there)/ })
    .click()
  const dialog = page.locator('[data-mend]')
  const choice = dialog.getByRole('radio', { name: remedy })
  if ((await choice.count()) > 0) await choice.first().check()
  await expect(dialog.locator('.do.first')).toBeVisible()
  await runBy(page, () => dialog.locator('.do.first').click())
}

/** Selects rows, previews what would be done to them all, and does it. */
async function many(kind: string, ids: readonly string[], action: string): Promise<void> {
  await open(kind)
  for (const id of ids) await row(id).getByRole('checkbox').check()
  await page.locator('[data-selected]').getByRole('button', { name: action }).click()
  await expect(page.locator('[data-bulk] tbody tr')).not.toHaveCount(0)
  await runBy(page, () => page.locator('[data-begin]').click())
}

async function set(
  system: string,
  resource: string,
  id: string,
  fields: Readonly<Record<string, string>>,
): Promise<void> {
  await desk.goto(`${process.env['AXION_E2E_STANDINS']}/${system}/desk?find=${encodeURIComponent(id)}`)
  const form = desk.locator(`section#${resource} form`, {
    has: desk.getByRole('button', { name: `Set ${id}`, exact: true }),
  })
  for (const [name, value] of Object.entries(fields)) {
    const field = form.getByLabel(`${name} of ${id}`, { exact: true })
    if (await field.evaluate((element) => element.tagName === 'SELECT')) await field.selectOption(value)
    else await field.fill(value)
  }
  await Promise.all([desk.waitForEvent('load'), form.getByRole('button').click()])
}

async function remove(system: string, resource: string, id: string): Promise<void> {
  await desk.goto(`${process.env['AXION_E2E_STANDINS']}/${system}/desk?find=${encodeURIComponent(id)}`)
  await Promise.all([
    desk.waitForEvent('load'),
    desk
      .locator(`section#${resource}`)
      .getByRole('button', { name: `Remove ${id}`, exact: true })
      .click(),
  ])
}

test('many rows are sent the baseline’s values at once, and one lot is taken back and sent again', async () => {
  await many(
    'items',
    ['FRAME-D', 'GLOVES', 'HONEY-H', 'COMB', 'HONEY-5', 'TOOL-J', 'SEED-C'],
    'Send the baseline’s values',
  )
  await expect(row('COMB').locator('[data-state="differs"]')).toHaveCount(0)
  await page.locator('[data-latest] summary').click()
  await runBy(page, () =>
    page.locator('[data-batch="send"]').first().getByRole('button', { name: 'Take back' }).click(),
  )
  await expect(row('COMB').locator('[data-state="differs"]')).toHaveCount(1)
  await many(
    'items',
    ['FRAME-D', 'GLOVES', 'HONEY-H', 'COMB', 'HONEY-5', 'TOOL-J', 'SEED-C'],
    'Send the baseline’s values',
  )
  await many('rates', ['TK', 'TK-MER', 'WN', 'BK-FUEL'], 'Send the baseline’s values')
  await many('dimensions', ['Department: YARD', 'Department: WEB'], 'Send the baseline’s values')
  await many('dimensions', ['Department: INSP'], 'Make them there')
  await many('locations', ['QUAY', 'MARKET', 'WH'], 'Send the baseline’s values')
  await many('parties', ['cus_counter', 'cus_thistledown'], 'Send the baseline’s values')
})

test('what nearly matches is looked at, linked and mended; what only one side has is made or taken in', async () => {
  for (const [kind, id, object] of [
    ['agencies', 'MCA', 'till_agency_MCA'],
    ['methods', 'MARKET', 'pm_market'],
    ['methods', 'WEB-CARD', 'trn_card'],
  ] as const) {
    await open(kind, id)
    await expect(page.locator(`[data-object="${object}"] .odd`).first()).toBeVisible()
    await page
      .locator(`[data-object="${object}"]`)
      .getByRole('button', { name: /^Accept the link/ })
      .click()
    await expect(
      page.locator(`[data-object="${object}"]`).getByRole('button', { name: /^Accept the link/ }),
    ).toHaveCount(0)
  }
  await many('methods', ['MARKET', 'GIFT'], 'Send the baseline’s values')
  await many('agencies', ['HCT'], 'Send the baseline’s values')
  for (const [kind, id, what] of [
    ['methods', 'brk_card', 'Card'],
    ['codes', 'CLOTHES', 'Protective clothing'],
    ['parties', 'web_foldgate', 'Foldgate Dairy (FOLD-HILL)'],
  ] as const) {
    await open(kind)
    // What there is to choose from is read as somebody types.
    await row(id).getByRole('combobox').fill(what)
    await row(id).getByRole('button', { name: 'Link' }).click()
    await expect(row(id)).toHaveCount(0)
  }
  await open('methods', 'YARD-CARD')
  await page
    .locator('[data-object="pm_card_old"]')
    .getByRole('button', { name: 'Take the link back' })
    .click()
  await expect(page.locator('[data-object="pm_card_old"]')).toHaveCount(0)
  await mend('locations', 'FAIR', '[data-object="loc_fair"]', /^Take the system/)

  await many('items', ['web_BALM-60'], 'Take them into the baseline')
  await many('methods', ['pm_card_office'], 'Take them into the baseline')
  await many('dimensions', ['dept_MAIL'], 'Take them into the baseline')
  await many('parties', ['cus_almshouse'], 'Take them into the baseline')
  await mend('accounts', 'clearing method CASH', '[data-lacking="ledger"]', /^Make it there/)
  await mend('accounts', 'clearing method MARKET', '[data-object="acct_1073"]', /^Send/)
  for (const [rule, account] of [
    ['clearing method COMPANY-CARD-OFFICE', '2450'],
    ['rounding', '6910'],
  ] as const) {
    await open('accounts', rule)
    await page.getByLabel('Account it is posted to').selectOption(account)
    await page.getByRole('button', { name: 'Look at it' }).click()
    await runBy(page, () => page.locator('[data-mend] .do.first').click())
  }
  // Two agencies in one account: the second gets one of its own, which the ledger does not have yet.
  await open('accounts', 'tax PTC')
  await page.getByLabel('Account it is posted to').selectOption('a new account')
  await page.getByRole('button', { name: 'Look at it' }).click()
  await expect(page.locator('[data-mend]')).toContainText('2211, to be made in Ledger')
  await runBy(page, () => page.locator('[data-mend] .do.first').click())
  await mend('accounts', 'tax PTC', '[data-lacking="ledger"]', /^Make it there/)
  for (const component of ['HCT', 'WRO']) {
    await open('rates', 'WN-HOL')
    await page
      .locator('[data-object="web_WN-HOL"]')
      .getByRole('button', { name: /^Mend it/ })
      .click()
    const dialog = page.locator('[data-mend]')
    await dialog
      .getByRole('radio', { name: /percent/ })
      .first()
      .check()
    await expect(dialog.locator('.do.first'), component).toBeVisible()
    await runBy(page, () => dialog.locator('.do.first').click())
  }
})

test('certificates are recorded with the files that prove them', async () => {
  for (const [party, number, region, reason, from] of [
    ['cus_ostler', 'WN-R-44071', 'State of Wendover', 'resale', '2026-10-01'],
    ['cus_kestrel', 'TK-F-01204', 'State of Tamarack', 'farm-use', '2026-11-16'],
    ['cus_tollgate', 'WN-R-50220', 'State of Wendover', 'resale', '2026-01-01'],
    ['cus_almshouse', 'C-77', 'State of Wendover', 'charity', '2026-01-01'],
  ] as const) {
    await open('parties', party)
    await page.getByRole('button', { name: /^Record a certificate/ }).click()
    await page.getByLabel('Number', { exact: true }).fill(number)
    await page.getByLabel('In which regions').selectOption({ label: region })
    await page.getByLabel('For', { exact: true }).fill(reason)
    await page.getByLabel('From', { exact: true }).fill(from)
    await page.getByRole('button', { name: 'Record the certificate' }).click()
    await page.getByLabel(`Attach a file to ${number}`).setInputFiles({
      name: `${number}.pdf`,
      mimeType: 'application/pdf',
      buffer: Buffer.from('%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF\n'),
    })
    await expect(page.getByRole('link', { name: `${number}.pdf` })).toBeVisible()
  }
  await page.getByLabel('Attach a file to C-77').setInputFiles({
    name: 'letter.pdf',
    mimeType: 'application/pdf',
    buffer: Buffer.from('<script>alert(1)</script>'),
  })
  await expect(page.getByRole('alert')).toContainText('it is no PDF, PNG or JPEG')
})

test('what systems do not take from others is corrected on their own desks', async () => {
  await set('pos', 'tax-rates', 'till_WN-PLX', { 'components.1.percent': '1.45', percent: '8.95' })
  await remove('pos', 'tax-rates', 'till_TK-MER')
  await set('pos', 'agencies', 'till_agency_MCA', { name: 'Merrow County Assessor' })
  await set('purchasing', 'tax-rates', 'buy_TK', { 'components.0.percent': '6.00', percent: '6.00' })
  await set('purchasing', 'payment-methods', 'pm_transfer', { active: 'yes' })
  await set('payments-web', 'payment-methods', 'trn_card', { name: 'Card on the web' })
  await remove('commerce', 'parties', 'web_kestrel')
  await set('commerce', 'parties', 'web_102', { defaultTaxRateId: 'web_WN-FEN' })
  await set('commerce', 'parties', 'web_103', { taxable: 'yes' })
  await desk.goto(`${process.env['AXION_E2E_STANDINS']}/commerce/desk`)
  await desk.getByLabel('New items start under').fill('GOODS')
  await desk.getByLabel('New parties are taxable').selectOption('yes')
  await desk.getByLabel('Taxes without an address at').fill('web_WN')
  await Promise.all([desk.waitForEvent('load'), desk.getByRole('button', { name: 'Save settings' }).click()])
  await page.goto(`${ENTITY}/connect`)
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await page.getByRole('link', { name: 'What changed there' }).click()
  await expect(page.locator('tbody tr', { hasText: 'Card on the web' })).not.toHaveCount(0)
})

test('a gift card is no income: its finding leads to the rule that sends it where it is owed', async () => {
  await open('items', 'GIFT-50')
  await page
    .locator('[data-finding="AXION_OWED_AS_INCOME"]')
    .getByRole('link', { name: 'To Accounts' })
    .click()
  await page.getByRole('button', { name: /^a rule for one party/ }).click()
  await page.getByLabel('Which one').fill('GIFT-50')
  await page.getByLabel('Account it is posted to').selectOption('2400')
  await page.getByRole('button', { name: 'Look at it' }).click()
  const dialog = page.locator('[data-mend]')
  await expect(dialog.locator('.do.first')).toBeVisible()
  await runBy(page, () => dialog.locator('.do.first').click())
  await open('items')
  await expect(page.locator('[data-row="GIFT-50"]')).toBeVisible()
  expect((await findingsSeen(page)).filter((one) => one.row === 'GIFT-50')).toEqual([])
})

test('what is agreed is changed from a day on, seen first, found through its versions, and taken back', async () => {
  await open('codes', 'TOOLS')
  await page.getByRole('link', { name: 'what is agreed, through its versions' }).click()
  await expect(page.locator('[data-versions] [data-stands=true]')).toHaveCount(1)
  await page.getByLabel('Kind').selectOption('codeRules')
  await page.getByLabel('Filter by any of its words').fill('tools')
  await page.keyboard.press('Enter')
  await page.locator('tr[data-object="BK TOOLS"]').click()
  await page.locator('[data-act=change]').click()
  await page.getByLabel('Percent', { exact: true }).fill('3.5')
  await page.getByLabel('From this day on').fill('2026-09-16')
  await page.locator('[data-look]').click()
  await expect(page.locator('[data-effect] [data-field=Percent]')).toContainText('3.5')
  await page.locator('[data-agree]').click()
  await expect(page.locator('[data-versions] [data-stands=true]')).toHaveCount(2)
  await page.goto(`${ENTITY}/align/baseline/codeRules?row=BK%20TOOLS`)
  await expect(page.locator('[data-version="2026-09-16"][data-stands=true]')).toContainText('3.5')
  await page.locator('[data-latest] summary').click()
  await runBy(page, () => page.locator('[data-batch="agreed-upon"]').first().getByRole('button').click())
  await expect(page.locator('[data-versions] [data-stands=true]')).toHaveCount(1)
})

test('a tax service is told what became of documents, as it is shown before', async () => {
  await page.goto('/saltmarsh/2026-09/connect')
  await expect(page.locator('[data-computing="reckoner"] input')).toBeChecked()
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await page.goto('/saltmarsh/2026-09/tie-out')
  const cause = page.locator('[data-cause]', { hasText: 'Cairn Reckoner keeps it, and none of the systems' })
  await cause.getByRole('button', { name: /^Mend/ }).click()
  const dialog = page.locator('[data-mend]')
  await expect(dialog).toContainText('TRIAL-1')
  await expect(dialog).toContainText('cancelled')
  await runBy(page, () => dialog.locator('.do.first').click())
  await expect(cause).toHaveCount(0)
})

test('what the books opened with is taken over: as it is proposed, or typed until nothing is left', async () => {
  await page.goto(`${ENTITY}/align/opening`)
  await expect(page.locator('[data-verdict]')).toContainText('No. 5 accounts of 20: 1,763.50 USD')
  const make = async (account: string): Promise<Locator> => {
    await page.locator(`[data-account="${account}"]`).getByRole('button').click()
    return page.locator(`[data-opening-list="${account}"]`)
  }
  for (const account of ['1100', '2210', '2212', '2216']) {
    const list = await make(account)
    await list.getByRole('button', { name: 'Take them as the list' }).click()
    await expect(list.locator('[data-list-open]')).toHaveText('–')
    await list.locator('[data-keep-list]').click()
    await expect(page.locator(`[data-account="${account}"]`)).toContainText('taken over')
  }
  const cards = await make('2400')
  await cards.getByLabel('Reference of line 1').fill('GC-0311 to GC-0314')
  await cards.getByLabel('Amount of line 1').fill('200.00')
  await expect(cards.locator('[data-list-open]')).toHaveText('75.00')
  await cards.getByLabel('Reference of line 2').fill('GC-0315')
  await cards.getByLabel('Amount of line 2').fill('75.00')
  await cards.locator('[data-keep-list]').click()
  await expect(page.locator('[data-verdict]')).toContainText('Yes. 20 accounts')
  await page.goto(ENTITY)
  await expect(page.locator('[data-not-taken-over]')).toHaveCount(0)
})

test('what is left is left with a reason, and then nothing is astray', async () => {
  await open('rates', 'WN-PLX')
  const counting = page
    .locator('[data-finding]')
    .filter({ hasNot: page.getByRole('button', { name: 'Take it up again' }) })
  await expect(counting).not.toHaveCount(0)
  for (let left = await counting.count(); left > 0; left--) {
    await counting.first().getByRole('button', { name: 'Leave it' }).click()
    await page.getByLabel('Why it is left').fill('Typed once in September; billing has no way to take it out')
    await counting.first().locator('form').getByRole('button', { name: 'Leave it' }).click()
    await expect(counting).toHaveCount(left - 1)
  }
  expect(await findingsSeen(page)).toEqual([])
  for (const kind of [
    'rates',
    'agencies',
    'codes',
    'items',
    'parties',
    'accounts',
    'methods',
    'locations',
    'dimensions',
  ]) {
    await open(kind)
    await expect(page.locator('.verdict')).toContainText('Yes.')
  }
  await expect(page.locator('.stage', { hasText: 'Align' }).locator('p')).toContainText('0 findings')
})
