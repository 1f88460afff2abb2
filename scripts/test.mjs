import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { buildInterface, chromium, nodePackages, postgresPrograms, python } from './lib/packages.mjs'

/**
 * Sets up what is missing, then unit and integration tests, then the browser with lint and types beside it.
 * Ends with each stage's minutes beside what it should take, which is said and fails nothing, and one line of counts.
 */
const bin = (name) => join(ROOT, 'node_modules', name)
const counts = { passed: 0, failed: 0 }
/** Minutes that a stage should take on two cores. */
const BUDGETS = {
  layout: 0.5,
  lint: 1.5,
  rooms: 0.5,
  types: 1,
  'unit and integration': 7,
  'end to end': 5,
  all: 12,
}
const took = []
const reports = mkdtempSync(join(tmpdir(), 'axion-reports-'))
const began = performance.now()
/** Where one of them cannot even begin, the others end. */
const children = new Set()
process.once('exit', () => children.forEach((child) => child.kill()))

/** @param whole whether what it says is told once it has ended, as it would stand between what others say */
function run(title, script, args, { env = {}, whole = false } = {}) {
  const started = performance.now()
  const said = [`\n— ${title}\n`]
  if (!whole) process.stdout.write(said[0])
  return new Promise((done) => {
    const child = spawn(process.execPath, [script, ...args], {
      cwd: ROOT,
      stdio: whole ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...env },
    })
    children.add(child)
    child.stdout?.on('data', (piece) => said.push(piece))
    child.stderr?.on('data', (piece) => said.push(piece))
    child.once('close', (code) => {
      children.delete(child)
      if (whole) process.stdout.write(said.join(''))
      took.push([title, (performance.now() - started) / 60_000])
      done(code === 0)
    })
  })
}

function count(passed, failed) {
  counts.passed += passed
  counts.failed += failed
}

/** Counts of a report; a run that ended badly without one failed test has failed itself. */
function countReport(file, ok, read) {
  const { passed, failed } = existsSync(file)
    ? read(JSON.parse(readFileSync(file, 'utf8')))
    : { passed: 0, failed: 0 }
  count(passed, failed === 0 && !ok ? 1 : failed)
}

async function looks() {
  const rooms = readdirSync(join(ROOT, 'packages')).map((name) => `packages/${name}/src`)
  for (const [title, script, args] of [
    ['layout', bin('prettier/bin/prettier.cjs'), ['--check', '.']],
    ['lint', bin('eslint/bin/eslint.js'), ['.']],
    [
      'rooms',
      bin('dependency-cruiser/bin/dependency-cruise.mjs'),
      ['--config', '.dependency-cruiser.mjs', ...rooms],
    ],
    ['types', bin('vue-tsc/bin/vue-tsc.js'), ['-p', 'tsconfig.json']],
  ]) {
    const ok = await run(title, script, args, { whole: true })
    count(ok ? 1 : 0, ok ? 0 : 1)
  }
}

async function unitAndIntegration() {
  const report = join(reports, 'vitest.json')
  const ok = await run('unit and integration', bin('vitest/vitest.mjs'), [
    'run',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ])
  countReport(report, ok, (r) => ({
    passed: r.numPassedTests,
    failed:
      r.numFailedTests +
      r.testResults.filter((f) => f.status === 'failed' && f.assertionResults.length === 0).length,
  }))
}

async function endToEnd() {
  const { withInstallation } = await import('./lib/forTests.mjs')
  await withInstallation(async (_installation, env) => {
    const args = ['test', '-c', 'e2e/playwright.config.ts']
    const ok = await run('end to end', bin('@playwright/test/cli.js'), args, { env, whole: true })
    countReport(env.AXION_E2E_REPORT, ok, (r) => ({
      passed: r.stats.expected + r.stats.flaky,
      failed: r.stats.unexpected + r.stats.skipped,
    }))
  })
}

nodePackages()
postgresPrograms()
chromium()
python()
buildInterface()
await unitAndIntegration()
await Promise.all([endToEnd(), looks()])

rmSync(reports, { recursive: true, force: true })
process.stdout.write('\n')
for (const [title, minutes] of [...took, ['all', (performance.now() - began) / 60_000]]) {
  const over = minutes > BUDGETS[title] ? ', over' : ''
  process.stdout.write(`${title}: ${minutes.toFixed(1)} of ${BUDGETS[title]} minutes${over}\n`)
}
process.stdout.write(`\n${counts.passed} passed, ${counts.failed} failed\n`)
process.exit(counts.failed === 0 && counts.passed > 0 ? 0 : 1)
