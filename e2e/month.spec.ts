import { expect, test, type Locator, type Page } from '@playwright/test'
import { answers, disagreements, SEED } from '@axion/demo'
import {
  billingRows,
  checkEveryAmount,
  ENTITY,
  findingsSeen,
  ledgerRows,
  openEveryAmount,
  runBy,
  runEnds,
  settled,
  signIn,
} from './axion.ts'

test.describe.configure({ mode: 'serial', timeout: 1_800_000 })

let page: Page
/** The desk pages of the stand-ins, in a browser context of their own: other people work there. */
let desk: Page
test.beforeAll(async ({ browser }) => {
  page = await (await browser.newContext()).newPage()
  desk = await (await browser.newContext()).newPage()
  await signIn(page)
})
test.afterAll(() => Promise.all([page.context().close(), desk.context().close()]))

const KEY = answers(SEED, '2026-09')
const DOCUMENTS = KEY.length
const verdict = () => page.locator('.verdict')
const causes = () => page.locator('[data-cause]')

test('the practice board shows both legal entities, and leads to the one to begin with', async () => {
  await page.goto('/practice')
  await expect(page.locator('[data-entity]')).toHaveCount(4)
  await expect(verdict()).toContainText('Not known yet')
  await page.locator('[data-entity="larkspur"]').getByRole('link', { name: 'Larkspur Apiary Supply' }).click()
  await page.waitForURL(`**${ENTITY}`)
})

test('the close sheet knows nothing yet, and says what to do', async () => {
  await expect(verdict()).toContainText('Not known yet')
  expect(await runBy(page, () => page.getByRole('button', { name: 'Pull all systems' }).click())).toMatch(
    /Billing: \d+ new/,
  )
})

test('Connect: one check fails, is mended on the ledger’s desk, and passes when checked again', async () => {
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  const check = page.locator('[data-check="keeps-numbers"]')
  await expect(check).toHaveAttribute('data-state', 'fails')
  await expect(verdict()).toContainText('No.')
  await expect(check.getByRole('link', { name: 'Open Combwright Books' })).toHaveAttribute(
    'href',
    /\/ledger\/desk$/,
  )
  await openDesk('ledger')
  await desk.getByLabel('Document numbers').selectOption('yes')
  await press('Save settings')
  await page.getByRole('button', { name: /Check again/ }).click()
  await expect(check).toHaveAttribute('data-state', 'passes')
  expect(await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())).toContain(
    'Ledger: nothing changed',
  )
})

test('Align: once what is clear is linked, what is found is just what was planted', async () => {
  for (const [kind, links] of [
    ['agencies', 28],
    ['rates', 29],
    ['items', 1],
    ['methods', 6],
    ['locations', 4],
  ] as const) {
    await page.goto(`${ENTITY}/align/${kind}`)
    await expect
      .soft(page.getByRole('button', { name: /^Accept \d+ clear/ }))
      .toHaveText(`Accept ${links} clear ${links === 1 ? 'link' : 'links'}`)
    await page.getByRole('button', { name: /^Accept \d+ clear/ }).click()
    await expect(page.getByRole('button', { name: /^Accept/ })).toHaveCount(0)
  }
  const inOrder = (list: readonly object[]): string[] => list.map((one) => JSON.stringify(one)).sort()
  const planted = disagreements()
  expect(planted.length).toBeGreaterThan(40)
  expect(inOrder(await findingsSeen(page))).toEqual(inOrder(planted))
})

test('Align: the wrong rate is shown with what it puts at stake, and what nearly matches is looked at', async () => {
  await page.goto(`${ENTITY}/align/agencies`)
  await expect(page.locator('[data-row="WRO"] [data-cell="ledger"]')).toHaveAttribute('data-state', 'agrees')
  await page.locator('[data-row="HCT"]').click()
  await expect(page.locator('[data-object="agency_HCT"]')).toContainText('a name that nearly matches')
  await page.keyboard.press('a')
  await expect(page.locator('[data-row="HCT"] [data-cell="ledger"]')).toHaveAttribute('data-state', 'agrees')

  await page.getByRole('link', { name: 'Combined rates' }).click()
  const wrong = page.locator('[data-row="WN-FEN"]')
  await expect(wrong.locator('[data-cell="billing"]')).toHaveAttribute('data-state', 'agrees')
  await expect(wrong.locator('[data-cell="ledger"]')).toContainText('7.25, not 7.45')
  await expect(wrong.locator('[data-amount]')).not.toHaveText('–')
  await expect(page.locator('[data-extra="rate_typed"]')).toContainText('8.95 by hand, no parts')
})

test('Post: a rehearsal warns and sends nothing; a handful goes, then the rest, and progress survives a reload', async () => {
  await page.goto(`${ENTITY}/post`)
  expect(
    await runBy(page, () => page.getByRole('button', { name: `Rehearse ${DOCUMENTS} documents` }).click()),
  ).toContain('Nothing was sent')
  expect(await ledgerRows(`select 1 from object where resource = 'bookings'`)).toHaveLength(0)
  await page.getByRole('button', { name: 'with a remark' }).click()
  await expect(page.locator('tbody tr').filter({ hasText: 'linked to nothing in the baseline' })).toHaveCount(
    1,
  )
  await page.getByRole('button', { name: /^All/ }).click()

  await page.getByRole('button', { name: 'Post a handful of 5' }).click()
  await page.locator('[data-confirm]').click()
  await expect(page.locator('[data-filter="sent"]')).toContainText('5')
  expect(await ledgerRows(`select 1 from object where resource = 'bookings'`)).toHaveLength(5)

  await page.getByRole('button', { name: `Post ${DOCUMENTS - 5} documents` }).click()
  await page.locator('[data-confirm]').click()
  await expect(page.locator('[data-run="running"]')).toBeVisible()
  await page.reload()
  expect(await runEnds(page)).toContain('1 failed')
})

test('Post: what the ledger refused stands by its reason, is mended in Align and booked by a retry', async () => {
  const reason = page.locator('[data-reason="AXION_LEDGER_REFUSED"]')
  await expect(reason).toContainText('is not known in this ledger')
  await reason.getByRole('link', { name: 'Mend in Align' }).click()
  await page.locator('[data-extra="rate_typed"]').getByRole('button', { name: 'Link' }).click()
  await expect(page.locator('[data-extra="rate_typed"]')).toHaveCount(0)
  await page.goto(`${ENTITY}/post`)
  await page.getByRole('button', { name: 'Retry 1 failed' }).click()
  await page.locator('[data-confirm]').click()
  await expect(verdict()).toContainText('Sent.')
  await page.getByRole('button', { name: /Pull, to see what is booked/ }).click()
  await expect(verdict()).toContainText(`shows all ${DOCUMENTS} documents`)
})

test('Post: one document is withdrawn with a preview, and posted again', async () => {
  const row = page.locator('tbody tr[data-state="booked"]').first()
  const number = await row.getAttribute('data-number')
  await row.getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Withdraw 1 selected' }).click()
  const dialog = page.locator('[data-withdraw]')
  await expect(dialog).toContainText(String(number))
  await expect(dialog.getByRole('table', { name: 'Accounts moved' })).toBeVisible()
  expect(
    await runBy(page, () => dialog.getByRole('button', { name: 'Withdraw 1 document' }).click()),
  ).not.toContain('failed')
  const own = page.locator(`tr[data-number="${number}"]`)
  await expect(own).toHaveAttribute('data-state', 'withdrawn')
  await own.getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Post 1 selected' }).click()
  await page.locator('[data-confirm]').click()
  await expect(own).toHaveAttribute('data-state', 'sent')
  await page.getByRole('button', { name: /Pull, to see what is booked/ }).click()
  await expect(own).toHaveAttribute('data-state', 'booked')
})

test('from the close sheet, the wrong rate’s evidence is three keys away at most', async () => {
  await page.goto(ENTITY)
  await expect(page.locator('tbody tr').first()).toBeVisible()
  let keys = 0
  for (; keys < 3; keys++) {
    const answer = page.waitForResponse((response) => response.url().includes('/evidence?open='))
    await page.keyboard.press('n')
    const { chain, causes: of } = (await (await answer).json()) as { chain?: object[]; causes?: object[] }
    if (/Hollis County.*1\.25/.test(JSON.stringify([chain, of]))) break
  }
  await expect(page.locator('[data-evidence="chain"]')).toContainText(/Hollis County at 1\.25\s%/)
  await expect(page.locator('.link.broken')).toHaveAttribute('data-link', 'ledger')
  expect(keys).toBeLessThan(3)
  await page.keyboard.press('Escape')
})

test('while every cause is open, every amount on every main view opens to its evidence', async () => {
  let opened = 0
  for (const view of ['', '/align/rates', '/align/agencies', '/tie-out?search=LA-20893']) {
    await page.goto(ENTITY + view)
    await expect(page.locator('tbody tr').first()).toBeVisible()
    opened += await openEveryAmount(page)
  }
  expect(opened).toBeGreaterThan(50)
  for (const view of ['/post', '/tie-out']) {
    await page.goto(ENTITY + view)
    await settled(page)
    expect(await checkEveryAmount(page)).toBeGreaterThan(250)
  }
})

const openDesk = (system: 'ledger' | 'billing') =>
  desk.goto(`${process.env['AXION_E2E_STANDINS']}/${system}/desk`)

/** Presses a button of a desk page, and waits until the page that answers is there. */
async function press(name: string, within: Locator = desk.locator('body')): Promise<void> {
  await Promise.all([desk.waitForEvent('load'), within.getByRole('button', { name, exact: true }).click()])
}

const numbersOf = async (customer: string): Promise<string[]> =>
  (
    await billingRows<{ number: string }>(
      `select value->>'number' as number from object where resource = 'documents' and value->'party'->>'name' = '${customer}' and value->>'documentDate' like '2026-09-%' order by 1`,
    )
  ).map((r) => r.number)

test('the opening amount: eighteen causes, each found by recomputation, with its documents', async () => {
  await page.goto(`${ENTITY}/tie-out`)
  await expect(verdict()).toContainText('not proved')
  await expect(causes()).toHaveCount(18)
})

test('what is wrong at the source is mended on billing’s desk, follows into Post, and is booked again', async () => {
  const find = async (what: string, text: string): Promise<void> => {
    await desk.getByLabel(`Find ${what}`).fill(text)
    await press('Find')
  }
  const charge = async (number: string, rate: string): Promise<void> => {
    await find('number or customer', number)
    await desk.getByLabel(`Rate of ${number}`, { exact: true }).selectOption(rate)
    await press(`Charge ${number}`)
  }
  const setLine = async (number: string, line: string, rate: string): Promise<void> => {
    await find('number or customer', number)
    await desk.getByLabel(`Line of ${number}`, { exact: true }).selectOption(line)
    await desk.getByLabel(`Rate of the line of ${number}`, { exact: true }).selectOption(rate)
    await press(`Set line of ${number}`)
  }
  await openDesk('billing')
  await charge((await numbersOf('Harbour Row Cooperative'))[0] ?? '', 'rate_WN-PLX')
  await charge((await numbersOf('Gorse Hill Grange'))[0] ?? '', 'rate_WN-HOL')
  await charge((await numbersOf('Old Mill Preserves'))[0] ?? '', 'rate_WN')
  await charge((await numbersOf('Whinfell Nursery'))[0] ?? '', 'rate_WN-HOL')
  for (const number of await numbersOf('Larder & Loft')) await setLine(number, '1', '')
  await setLine((await numbersOf('Ostler Nurseries'))[0] ?? '', '1', 'rate_WN')
  await setLine((await numbersOf('Thistledown Farm'))[1] ?? '', '1', '')
  await setLine((await numbersOf('Reedmace Farm Stores'))[0] ?? '', '3', '')

  await openDesk('ledger')
  for (const [label, value] of [
    ['Exchange rates', 'as-stated'],
    ['Credit notes', 'as-credits'],
    ['Prices with tax inside', 'taken-out'],
    ['Lines of a document', 'all'],
  ] as const)
    await desk.getByLabel(label, { exact: true }).selectOption(value)
  await press('Save settings')
  const rounding = desk.getByLabel('Rounding of Tamarack, rest of state')
  await rounding.selectOption('document')
  await press('Set', desk.locator('form', { has: rounding }))
  await find('entry or memo', 'Cheque 1187')
  await press('Void 47990')
  await runBy(page, () => page.getByRole('button', { name: 'Pull and prove again' }).click())
  await page.goto(`${ENTITY}/post`)
  await expect(page.locator('[data-filter="changed"]')).toContainText('9')
  await page.getByRole('button', { name: 'Post 9 documents' }).click()
  await page.locator('[data-confirm]').click()
  await expect(verdict()).toContainText('Sent.')
  await page.getByRole('button', { name: /Pull, to see what is booked/ }).click()
  await expect(verdict()).toContainText('Yes.')
})

test('Tie out: each cause that is left is mended with a preview, and the month falls to nil', async () => {
  await page.goto(`${ENTITY}/tie-out`)
  await expect(causes()).toHaveCount(9)
  const REMEDY: Readonly<Record<string, RegExp>> = {
    'rate-date': /^Write correcting/,
    'component-percent': /^Send the baseline/,
    'liability-account': /^Send the right/,
  }
  for (let left = 9; left > 0; left--) {
    await page.keyboard.press('n')
    const chosen = page.locator('tr.chosen[data-cause]')
    await expect(chosen).toHaveCount(1)
    const kind = (await chosen.getAttribute('data-cause'))?.replace('booked: ', '').split('|')[0] ?? ''
    await page.keyboard.press('m')
    const dialog = page.locator('[data-mend]')
    // Where one remedy alone would change something, there is nothing to choose.
    await expect(dialog.locator('h2, fieldset').first()).toBeVisible()
    const remedy = dialog.getByRole('radio', { name: REMEDY[kind] ?? /^Book again/ })
    if ((await dialog.getByRole('radio').count()) > 0) await remedy.check()
    await expect(dialog.locator('.do.first')).toBeVisible()
    await dialog.locator('.do.first').click()
    await expect(causes()).toHaveCount(left - 1, { timeout: 600_000 })
  }
  await expect(verdict()).toContainText(`${DOCUMENTS} documents`)
  await page.goto(ENTITY)
  // Nobody says Yes of receipts, orders and bills, which are not posted yet: they stand beside it.
  await expect(verdict()).toContainText('Yes, of what is posted.')
  await expect(page.locator('[data-not-posted]')).toContainText('126 sales and returns')
  await expect(page.locator('[data-not-posted]')).toContainText('12 purchases')
})

test('the trail names who did what, and from where', async () => {
  await page.goto(`${ENTITY}/trail`)
  await page.getByLabel('What was done').selectOption('sent-to-system')
  await expect(page.locator('tbody tr')).toHaveCount(3)
  await expect(page.locator('tbody tr').first()).toContainText('Kofi Imre')
  await page.getByLabel('What was done').selectOption('withdrew')
  await expect(page.locator('tbody tr')).toHaveCount(1)
  await expect(page.locator('tbody tr')).toContainText('127.0.0.1')
})

test('the stand-ins’ own databases hold just what the generator’s answer key says, each document once', async () => {
  const rows = await ledgerRows<{ document: string; agency: string | null; account: string; amount: string }>(
    `select split_part(e.value->>'externalId', '/', 3) as document, l->>'agencyId' as agency, a.value->>'number' as account, sum((l->>'credit')::numeric - (l->>'debit')::numeric)::text as amount
     from object e cross join jsonb_array_elements(e.value->'lines') l join object a on a.resource = 'accounts' and a.id = l->>'accountId'
     where e.resource = 'journal-entries' and not e.removed and e.value->>'voided' = 'false' and e.value->>'externalId' is not null group by 1, 2, 3`,
  )
  const numbers = new Map(
    (
      await billingRows<{ id: string; number: string }>(
        `select id, value->>'number' as number from object where resource = 'documents'`,
      )
    ).map((r) => [r.id, r.number]),
  )
  const units = (text: string): bigint => BigInt(text.replace('.', ''))
  const homes = new Map([
    ['WRO', '2210'],
    ['HCT', '2212'],
    ['CPL', '2214'],
    ['BTD', '2216'],
    ['TDT', '2220'],
    ['MCA', '2222'],
    ['BRD', '2230'],
    ['NFT', '2240'],
    ['STO', '2242'],
  ])
  for (const { number, tax, net } of KEY) {
    const own = rows.filter((r) => numbers.get(r.document) === number)
    const booked = new Map<string, bigint>()
    for (const row of own.filter((r) => r.agency !== null && units(r.amount) !== 0n)) {
      const agency = (row.agency ?? '').replace('agency_', '')
      expect(row.account, `${number}: the account of ${agency}`).toBe(homes.get(agency))
      booked.set(agency, (booked.get(agency) ?? 0n) + units(row.amount))
    }
    expect([...booked].sort(), number).toEqual([...tax].filter(([, amount]) => amount !== 0n).sort())
    expect(
      own.filter((r) => ['4000', '4100'].includes(r.account)).reduce((sum, r) => sum + units(r.amount), 0n),
      number,
    ).toBe(net)
  }
  const doubles = await ledgerRows(
    `select 1 from object where resource = 'journal-entries' and value->>'voided' = 'false' and value->>'externalId' like '%/invoice' group by value->>'externalId' having count(*) > 1`,
  )
  expect(doubles).toEqual([])
})
