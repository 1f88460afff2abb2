import { ALIGN_KINDS, type GridView } from '@axion/contract'
import { expect, type Page } from '@playwright/test'
import pg from 'pg'

export const ENTITY = '/larkspur/2026-09'

export async function signIn(page: Page, who = 'preparer'): Promise<void> {
  await page.goto('/sign-in')
  await page.getByLabel('E-mail address').fill(`${who}@larkspur.example`)
  await page.getByLabel('Password').fill('hive-and-honey')
  await expect(page.getByLabel('E-mail address')).toHaveValue(`${who}@larkspur.example`)
  await page.getByRole('button', { name: 'Sign in' }).click()
  await page.waitForURL('**/practice')
  await page.goto(ENTITY)
  // The shell listens for keys once it stands.
  await expect(page.locator('.stage').first()).toBeVisible()
}

/** Starts a run by a click, waits for it to end, and gives what the run bar says of it. */
export async function runBy(page: Page, start: () => Promise<void>): Promise<string> {
  const bar = page.locator('[data-run]')
  const before = (await bar.count()) === 0 ? null : await bar.getAttribute('data-run-id')
  await start()
  if (before !== null) await expect(bar).not.toHaveAttribute('data-run-id', before)
  return runEnds(page)
}

/** Waits for the run that is shown to end. */
export async function runEnds(page: Page): Promise<string> {
  await expect(page.locator('[data-run="done"]')).toBeVisible({ timeout: 600_000 })
  return page.locator('[data-run]').innerText()
}

export interface FindingSeen {
  readonly align: string
  readonly row: string
  readonly system: string | null
  readonly finding: string
}

/** Every finding that counts, in every grid, as the application's API gives them. */
export async function findingsSeen(page: Page): Promise<FindingSeen[]> {
  const seen: FindingSeen[] = []
  for (const kind of ALIGN_KINDS) {
    const answer = await page.request.get(
      `/api/entities/larkspur/months/2026-09/align/${kind}?limit=500&only=differs`,
    )
    const view = (await answer.json()) as GridView
    for (const row of view.rows)
      for (const finding of row.findings.filter((f) => f.left === null))
        seen.push({ align: kind, row: row.id, system: finding.systemId, finding: finding.code })
  }
  return seen
}

/** A question to a stand-in's own database, past Axion and its screens. */
export const ledgerRows = <R>(sql: string): Promise<R[]> => rowsOf<R>('AXION_E2E_LEDGER_DB', sql)
export const billingRows = <R>(sql: string): Promise<R[]> => rowsOf<R>('AXION_E2E_BILLING_DB', sql)

async function rowsOf<R>(database: string, sql: string): Promise<R[]> {
  const client = new pg.Client({ connectionString: process.env[database] })
  await client.connect()
  try {
    return (await client.query(sql)).rows as R[]
  } finally {
    await client.end()
  }
}

const cents = (text: string): bigint => BigInt(text.replace('.', ''))

interface Evidence {
  readonly kind: string
  readonly amount: string
  readonly members?: readonly { readonly amount: string }[]
  readonly chain?: readonly {
    readonly role: string
    readonly amount: string | null
    readonly silence: string | null
  }[]
}

/** A total's members sum to it exactly; a chain has all five links, each with an amount or a word for why it has none. */
function expectComplete(evidence: Evidence, open: string, amount: string): void {
  expect(evidence.amount, `the evidence of ${open}`).toBe(amount)
  if (evidence.kind === 'members') {
    expect(
      (evidence.members ?? []).reduce((sum, m) => sum + cents(m.amount), 0n),
      `the parts of ${open}`,
    ).toBe(cents(amount))
    expect(evidence.members?.length, `the parts of ${open}`).toBeGreaterThan(0)
    return
  }
  expect(evidence.chain?.map((link) => link.role)).toEqual([
    'source',
    'determination',
    'booking',
    'ledger',
    'account',
  ])
  expect(evidence.chain?.every((link) => link.amount !== null || link.silence !== null)).toBe(true)
}

const amountsOf = (page: Page): Promise<[string, string][]> =>
  page
    .locator('[data-open]')
    .evaluateAll((elements) => [
      ...new Map(
        elements.map(
          (e) => [e.getAttribute('data-open') ?? '', e.getAttribute('data-amount') ?? ''] as const,
        ),
      ).entries(),
    ])

/** Opens every amount that the page shows, by clicking it. */
export async function openEveryAmount(page: Page): Promise<number> {
  const amounts = await amountsOf(page)
  for (const [open, amount] of amounts) {
    const answer = page.waitForResponse(
      (response) =>
        response.url().includes('/evidence?open=') &&
        new URL(response.url()).searchParams.get('open') === open,
    )
    await page.locator(`[data-open="${open}"][data-amount="${amount}"]`).first().dispatchEvent('click')
    expectComplete((await (await answer).json()) as Evidence, open, amount)
  }
  if (amounts.length > 0) {
    await expect(page.locator('[data-evidence]')).toBeVisible()
    await page.keyboard.press('Escape')
    await expect(page.locator('[data-evidence]')).toHaveCount(0)
  }
  return amounts.length
}

const AT_ONCE = 8

/** The same for a view with hundreds of amounts: reads what each would open, several at once. */
export async function checkEveryAmount(page: Page): Promise<number> {
  const amounts = await amountsOf(page)
  const [, entity = '', month = ''] = new URL(page.url()).pathname.split('/')
  for (let from = 0; from < amounts.length; from += AT_ONCE) {
    await Promise.all(
      amounts.slice(from, from + AT_ONCE).map(async ([open, amount]) => {
        const answer = await page.request.get(
          `/api/entities/${entity}/months/${month}/evidence?open=${encodeURIComponent(open)}`,
        )
        expect(answer.status(), `${open}: ${await answer.text()}`).toBe(200)
        expectComplete((await answer.json()) as Evidence, open, amount)
      }),
    )
  }
  return amounts.length
}

/** Waits until the view has read what it shows. */
export async function settled(page: Page): Promise<void> {
  await expect(page.locator('.verdict, .question').first()).toBeVisible()
  await expect(page.getByText('Reading', { exact: true })).toHaveCount(0)
  await expect(page.locator('.stage p').first()).not.toBeEmpty()
  if (page.url().includes('open=')) await expect(page.locator('[data-evidence]')).toBeVisible()
}
