import type { ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, type Page } from '@playwright/test'
import { freePort, isFree, ROOT } from '../scripts/lib/home.mjs'
import { runBy } from './axion.ts'
import { beginBridges, MADE, until, type MadeBridge } from './madeup.ts'

/** An installation of one's own, from the terminal's link: an administrator, a legal entity, and two systems whose bridges were written to begin with. */
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
  await page.getByLabel('Your name').fill('Ines Aldous')
  await page.getByLabel('E-mail address').fill('ines@example.org')
  await page.getByLabel('Password').fill('a long password')
  await page.getByLabel('The same once more').fill('a long password')
  await page.getByRole('button', { name: 'Begin' }).click()
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
    if (name === 'name') await field.fill(value)
    else await field.selectOption(value)
  }
  await page.locator('[name=otherCountry]').fill('XA')
  await page.getByRole('button', { name: 'Found Sorrel Mill, Ltd.' }).click()
  await page.waitForURL('**/sorrel-mill-ltd/*/connect')
  await expect(verdict()).toContainText('None is connected')
})

test('its systems are connected after a look at who answers, and pulled', async () => {
  for (const { role, name, url, token } of bridges) {
    await page.getByRole('button', { name: 'Connect a system', exact: true }).click()
    const form = page.getByRole('form', { name: 'Connect a system' })
    await form.locator('[name=role]').selectOption(role)
    await form.locator('[name=name]').fill(name)
    await form.locator('[name=address]').fill(url)
    await form.locator('[name=token]').fill('not the token')
    await form.getByRole('button', { name: 'Ask who answers' }).click()
    await expect(form.getByRole('alert')).toContainText(`${name} does not accept the token.`)
    await form.locator('[name=token]').fill(token)
    await form.getByRole('button', { name: 'Ask who answers' }).click()
    await expect(form.locator('[data-asked]')).toContainText(`Sample ${role} answers`)
    await form.getByRole('button', { name: `Connect ${name}` }).click()
    await expect(page.locator(`[data-system=${name.toLowerCase()}]`)).toBeVisible()
  }
  await runBy(page, () => page.getByRole('button', { name: /Pull all systems/ }).click())
  await page.goto('/sorrel-mill-ltd/2026-09')
  await expect(verdict()).toContainText('USD not proved')
})

test('a baseline is decided out of what its systems hold, and the documents explained rise with each answer', async () => {
  await page.goto('/sorrel-mill-ltd/2026-09/align/rates')
  await page.getByRole('link', { name: 'Decisions' }).last().click()
  const explained = async (): Promise<number> => Number(/(\d+) of 600/.exec(await verdict().innerText())?.[1])
  await expect(verdict()).toContainText('0 of 600 documents explained')
  await page.locator('[data-take-agreed]').click()
  await expect(page.locator('[data-take-agreed]')).toHaveCount(0)
  // What systems differ in is answered, then what one has is accepted as it has it, until nothing is left that anything can be drafted of.
  const answers = page.locator('article[data-decision]').getByRole('button', { name: /^Accept for/ })
  const batches = page.locator('[data-batch]').getByRole('button', { name: /^Accept \d+/ })
  const left = async (): Promise<number> => (await answers.count()) + (await batches.count())
  let before = await explained()
  while ((await left()) > 0) {
    const next = (await answers.count()) > 0 ? answers.first() : batches.first()
    const line = await next.getAttribute('aria-label')
    await next.click()
    await expect(page.getByRole('button', { name: line ?? '', exact: true })).toHaveCount(0)
    expect(await explained()).toBeGreaterThanOrEqual(before)
    before = await explained()
  }
  // Nineteen in twenty of those that are right, to the cent.
  expect(before * 20).toBeGreaterThanOrEqual((600 - MADE.truth.wrong.size) * 19)
  await expect(page.getByRole('region', { name: 'What no system can tell' })).toContainText(
    'The registration with',
  )
  await page.getByRole('link', { name: /^The registration with/ }).click()
  await expect(verdict()).toContainText('without a registration')
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
