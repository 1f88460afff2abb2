import { spawn } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { buildInterface, chromium, nodePackages, postgresPrograms, python } from './lib/packages.mjs'

/**
 * Sets up what is missing, then lint, types, unit and integration tests, and the browser; ends with each stage's minutes beside what it
 * should take, which is said and fails nothing, and one line of counts.
 */
const bin = (name) => join(ROOT, 'node_modules', name)
const counts = { passed: 0, failed: 0 }
/** Minutes that a stage should take on two cores, all of them together twelve. */
const BUDGETS = {
  layout: 0.3,
  lint: 0.6,
  rooms: 0.2,
  types: 0.5,
  'unit and integration': 6.4,
  'end to end': 4,
}
const took = []
const reports = mkdtempSync(join(tmpdir(), 'axion-reports-'))

function run(title, script, args, env = {}) {
  process.stdout.write(`\n— ${title}\n`)
  const began = performance.now()
  return new Promise((done) => {
    const child = spawn(process.execPath, [script, ...args], {
      cwd: ROOT,
      stdio: ['ignore', 'inherit', 'inherit'],
      env: { ...process.env, ...env },
    })
    child.once('exit', (code) => {
      took.push([title, (performance.now() - began) / 60_000])
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

nodePackages()
postgresPrograms()
chromium()
python()

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
  const ok = await run(title, script, args)
  count(ok ? 1 : 0, ok ? 0 : 1)
}

const vitestReport = join(reports, 'vitest.json')
const vitestOk = await run('unit and integration', bin('vitest/vitest.mjs'), [
  'run',
  '--reporter=default',
  '--reporter=json',
  `--outputFile.json=${vitestReport}`,
])
countReport(vitestReport, vitestOk, (r) => ({
  passed: r.numPassedTests,
  failed:
    r.numFailedTests +
    r.testResults.filter((f) => f.status === 'failed' && f.assertionResults.length === 0).length,
}))

buildInterface()
const { withInstallation } = await import('./lib/forTests.mjs')
await withInstallation(async (_installation, env) => {
  const ok = await run(
    'end to end',
    bin('@playwright/test/cli.js'),
    ['test', '-c', 'e2e/playwright.config.ts'],
    env,
  )
  countReport(env.AXION_E2E_REPORT, ok, (r) => ({
    passed: r.stats.expected + r.stats.flaky,
    failed: r.stats.unexpected + r.stats.skipped,
  }))
})

rmSync(reports, { recursive: true, force: true })
process.stdout.write('\n')
for (const [title, minutes] of took) {
  const over = minutes > BUDGETS[title] ? ', over' : ''
  process.stdout.write(`${title}: ${minutes.toFixed(1)} of ${BUDGETS[title]} minutes${over}\n`)
}
process.stdout.write(`\n${counts.passed} passed, ${counts.failed} failed\n`)
process.exit(counts.failed === 0 && counts.passed > 0 ? 0 : 1)
