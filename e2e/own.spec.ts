import type { ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, type Page } from '@playwright/test'
import { freePort, isFree, ROOT } from '../scripts/lib/home.mjs'
import { runBy } from './axion.ts'
import { beginBridges, MADE, mendInvoices, until, type MadeBridge } from './madeup.ts'

/**
 * An installation of one's own, from the terminal's link to a proved month through the screens alone: an administrator, a legal entity, two systems that
 * nothing here knows, a baseline out of what they hold. With AXION_WALK at a person's pace, so many seconds a decision.
 */
test.describe.configure({ mode: 'serial' })

const folder = mkdtempSync(join(tmpdir(), 'axion-own-'))
const children: ChildProcess[] = []
let base = ''
let link = ''
let page: Page
let bridges: readonly MadeBridge[] = []

const stopped = (child: ChildProcess): Promise<unknown> => {
  const ended = new Promise((done) => child.once('exit', done))
  child.kill('SIGTERM')
  return ended
}
const start = async (args: readonly string[], port: number): ReturnType<typeof until> => {
  const begun = await until(process.execPath, ['scripts/start.mjs', ...args], {
    cwd: ROOT,
    env: {
      AXION_HOME: join(folder, 'home'),
      AXION_PORT: String(port),
      AXION_BRIDGES: bridges.map(({ url }) => `${url}/`).join(','),
      AXION_TODAY: '',
    },
    line: 'Ctrl+C',
  })
  children.push(begun.child)
  return begun
}
let installation: ChildProcess
let port = 0

/** What a person decides: one click, one choice, one field or one column that is pasted. */
const PACE = Number(process.env['AXION_WALK'] ?? 0) * 1000
let decisions = 0
const began = performance.now()
async function decide(act: Promise<unknown>): Promise<void> {
  await act
  decisions++
  if (PACE > 0) await page.waitForTimeout(PACE)
}
/** As somebody pastes a column that was copied out of a spreadsheet. */
async function pasteInto(label: string, rows: readonly string[]): Promise<void> {
  await decide(
    page.getByLabel(label, { exact: true }).evaluate((field, text) => {
      const clipboardData = new DataTransfer()
      clipboardData.setData('text/plain', text)
      field.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }))
    }, rows.join('\n')),
  )
}

test.beforeAll(async ({ browser }) => {
  bridges = await beginBridges(folder, freePort)
  children.push(...bridges.map(({ child }) => child))
  port = await freePort()
  while (!(await isFree(port + 1))) port = await freePort()
  const begun = await start(['--empty'], port)
  installation = begun.child
  link = /http\S+\/first\/\S+/.exec(begun.said)?.[0] ?? ''
  base = `http://127.0.0.1:${port}`
  page = await (await browser.newContext({ baseURL: base })).newPage()
})
test.afterAll(async () => {
  await page.context().close()
  await stopped(installation)
  for (const child of children) child.kill('SIGKILL')
  rmSync(folder, { recursive: true, force: true })
})

const verdict = () => page.locator('[data-verdict]')

test('its first administrator begins by the link alone, once', async () => {
  await page.goto('/')
  await expect(page.locator('[data-nobody]')).toContainText('Its start printed a link')
  await page.goto('/first/guessed')
  await expect(page.getByRole('alert')).toContainText('This link begins nothing')
  await page.goto(link)
  for (const [label, text] of [
    ['Your name', 'Ines Aldous'],
    ['E-mail address', 'ines@example.org'],
    ['Password', 'a long password'],
    ['The same once more', 'a long password'],
  ] as const)
    await decide(page.getByLabel(label).fill(text))
  await decide(page.getByRole('button', { name: 'Begin' }).click())
  await page.waitForURL('**/practice/found')
})

test('a legal entity is founded', async () => {
  for (const [name, value] of [
    ['name', 'Sorrel Mill, Ltd.'],
    ['country', 'other'],
    ['currency', 'USD'],
    ['timeZone', 'America/Chicago'],
    ['yearBegins', '4'],
  ] as const) {
    const field = page.locator(`[name=${name}]`)
    await decide(name === 'name' ? field.fill(value) : field.selectOption(value))
  }
  await decide(page.locator('[name=otherCountry]').fill('XQ'))
  await decide(page.getByRole('button', { name: 'Found Sorrel Mill, Ltd.' }).click())
  await page.waitForURL('**/sorrel-mill-ltd/*/connect')
  await expect(verdict()).toContainText('None is connected')
})

test('its systems are connected after a look at who answers, and pulled', async () => {
  for (const { role, name, product, url, token } of bridges) {
    await decide(page.getByRole('button', { name: 'Connect a system', exact: true }).click())
    const form = page.getByRole('form', { name: 'Connect a system' })
    await decide(form.locator('[name=role]').selectOption(role))
    await decide(form.locator('[name=name]').fill(name))
    await decide(form.locator('[name=address]').fill(url))
    await decide(form.locator('[name=token]').fill('not the token'))
    await decide(form.getByRole('button', { name: 'Ask who answers' }).click())
    await expect(form.getByRole('alert')).toContainText(`${name} does not accept the token.`)
    await decide(form.locator('[name=token]').fill(token))
    await decide(form.getByRole('button', { name: 'Ask who answers' }).click())
    await expect(form.locator('[data-asked]')).toContainText(`${product} answers`)
    await decide(form.getByRole('button', { name: `Connect ${name}` }).click())
    await expect(page.locator(`[data-system=${name.toLowerCase()}]`)).toBeVisible()
  }
  await runBy(page, () => decide(page.getByRole('button', { name: /Pull all systems/ }).click()))
  // It begins in the month that runs; what was pulled is of another.
  await decide(page.locator('.entity a').first().click())
  await decide(page.locator('[data-elsewhere] a').click())
  await page.waitForURL('**/2026-09')
  await expect(verdict()).toContainText('USD not proved')
})

test('a baseline is decided out of what its systems hold, and the documents explained rise with each answer', async () => {
  await page.goto('/sorrel-mill-ltd/2026-09/align/rates')
  await decide(page.getByRole('link', { name: 'Decisions' }).last().click())
  const explained = async (): Promise<number> => Number(/(\d+) of 600/.exec(await verdict().innerText())?.[1])
  await expect(verdict()).toContainText('0 of 600 documents explained')
  await decide(page.locator('[data-take-agreed]').click())
  await expect(page.locator('[data-take-agreed]')).toHaveCount(0)
  // What systems differ in is answered, then what one has is accepted as it has it, until nothing is left that anything can be drafted of.
  const answers = page.locator('article[data-decision]').getByRole('button', { name: /^Accept for/ })
  const batches = page.locator('[data-batch]').getByRole('button', { name: /^Accept \d+/ })
  const left = async (): Promise<number> => (await answers.count()) + (await batches.count())
  let before = await explained()
  while ((await left()) > 0) {
    const next = (await answers.count()) > 0 ? answers.first() : batches.first()
    const line = await next.getAttribute('aria-label')
    await decide(next.click())
    await expect(page.getByRole('button', { name: line ?? '', exact: true })).toHaveCount(0)
    expect(await explained()).toBeGreaterThanOrEqual(before)
    before = await explained()
  }
  // Nineteen in twenty of those that are right, to the cent.
  expect(before * 20).toBeGreaterThanOrEqual((600 - MADE.truth.wrong.size) * 19)
})

test('what no system can tell is answered down a column, and kept at once', async () => {
  const asked = (what: string) => page.locator(`[data-asked=${what}] tbody tr`)
  const column = async (what: string, of: string): Promise<void> => {
    const rows = await asked(what).count()
    expect(rows).toBeGreaterThan(10)
    const name = await asked(what).first().locator('.strong').innerText()
    await pasteInto(
      `Number of the ${of} ${name}`,
      Array.from({ length: rows }, (_, at) => `${what.slice(0, 1).toUpperCase()}-${1000 + at}\t2025-01-01`),
    )
  }
  await column('registrations', 'registration with')
  await column('certificates', 'certificate of')
  await decide(page.locator('[data-keep-answers]').click())
  await expect(page.locator('[data-keep-answers]')).toHaveCount(0)
  await expect(verdict()).toContainText('Nothing more.')
  await page.goto('/sorrel-mill-ltd/2026-09/align/registrations')
  await expect(verdict()).toContainText('Yes.')
})

const wrong = MADE.truth.wrong.size
const post = async (documents: number): Promise<void> => {
  await page.goto('/sorrel-mill-ltd/2026-09/post')
  await runBy(page, () =>
    decide(page.getByRole('button', { name: `Rehearse ${documents} documents` }).click()),
  )
  await decide(page.getByRole('button', { name: `Post ${documents} documents` }).click())
  await decide(page.locator('[data-confirm]').click())
  await expect(verdict()).toContainText('Sent.', { timeout: 600_000 })
  await decide(page.getByRole('button', { name: /Pull, to see what is booked/ }).click())
  await expect(verdict()).toContainText('shows all 600 documents', { timeout: 600_000 })
}

test('its documents are posted once the systems are checked, and the proof finds those that were charged wrongly and no other', async () => {
  await page.goto('/sorrel-mill-ltd/2026-09/post')
  await decide(page.getByRole('button', { name: 'Check them now' }).click())
  await expect(page.locator('[data-blocking]')).toHaveCount(0)
  await post(600)
  await page.goto('/sorrel-mill-ltd/2026-09/tie-out')
  await expect(verdict()).toContainText(`${wrong} documents`)
  await expect(verdict()).toContainText(`${600 - wrong} proved`)
  const rows = page.getByRole('table', { name: 'Documents' }).locator('tbody td.number')
  const found = (await rows.allInnerTexts()).filter(Boolean).map((number) => number.toLowerCase())
  expect(found.sort()).toEqual([...MADE.truth.wrong.keys()].sort())
})

test('they are mended where they were made, posted again, and the month is proved, first as the systems have it', async () => {
  mendInvoices(folder)
  await runBy(page, () => decide(page.getByRole('button', { name: 'Pull and prove again' }).click()))
  await post(wrong)
  // What systems agree upon may be wrong in all of them alike: until it is read elsewhere, the proof is of what they say.
  await page.goto('/sorrel-mill-ltd/2026-09/tie-out')
  await expect(verdict()).toContainText('Yes, as the systems have it.')
  await decide(page.locator('[data-resting] a').click())
  const texts = page.locator('[data-seen]')
  await expect(texts.first()).toBeVisible()
  const [first, rows] = [await texts.first().locator('.strong').innerText(), await texts.count()]
  await pasteInto(
    `What was read of ${first}`,
    Array(rows).fill('Rates and rules in force, September\t2026-09-30'),
  )
  await decide(page.locator('[data-keep-checks]').click())
  await expect(page.locator('[data-seen][data-state=checked]')).toHaveCount(rows)
  for (const view of ['/tie-out', '']) {
    await page.goto(`/sorrel-mill-ltd/2026-09${view}`)
    await expect(verdict()).toContainText('Yes.')
  }
  if (PACE > 0) {
    const minutes = ((performance.now() - began) / 60_000).toFixed(1)
    process.stdout.write(
      `\n${decisions} decisions at ${PACE / 1000} s each: ${minutes} minutes from the link to a proved month\n`,
    )
  }
})

test('it is renamed, closed, read on the board, and found as it was after a start without the flag', async () => {
  await page.goto('/sorrel-mill-ltd/2026-09/entity')
  await page.locator('[name=name]').fill('Sorrel Mill')
  await page.getByRole('button', { name: 'Keep it so' }).click()
  await expect(page.locator('.entity strong')).toHaveText('Sorrel Mill')
  await page.getByRole('button', { name: 'Close this legal entity' }).click()
  await page.getByRole('button', { name: 'Close Sorrel Mill' }).click()
  await expect(page.locator('[data-closed]')).toContainText('It is read, and nothing is written')
  await stopped(installation)
  const again = await start([], port)
  installation = again.child
  expect(again.said).toContain('Sign in as one of its people.')
  expect(again.said).not.toContain('/first/')
  await page.goto('/practice')
  await expect(page.locator('main [data-closed]')).toContainText('Sorrel Mill')
  await expect(page.locator('[data-entity]')).toHaveCount(0)
})
