import { spawnSync } from 'node:child_process'
import { appendFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fail, ROOT } from './lib/home.mjs'
import { faketime, nodePackages, postgresPrograms } from './lib/packages.mjs'

/**
 * Seeds of chaos against real processes: npm run chaos -- 1..25, every wait a twentieth of the usual one; npm run chaos -- 1..2 real, as they
 * are; npm run chaos -- large, a hundred thousand documents (AXION_CHAOS_DOCUMENTS) while the database is stopped hard.
 * What passed at which commit is kept in test-results/chaos.jsonl, and the table in docs/benchmarks.md is of all that is kept of this commit.
 */
nodePackages()
postgresPrograms()
faketime()
const [, , which = '1..20', ...how] = process.argv
const isLarge = which === 'large'
const isReal = how.includes('real')
const [, from, to] = /^(\d+)(?:\.\.(\d+))?$/.exec(isLarge ? '1' : which) ?? []
if (!from) fail(`"${which}" is no span of seeds; write 1..25.`)
const [first, last] = to ? [Number(from), Number(to)] : [1, Number(from)]
const git = (...args) => spawnSync('git', args, { cwd: ROOT, encoding: 'utf8' }).stdout.trim()
const commit =
  git('rev-parse', '--short', 'HEAD') + (git('status', '--porcelain', 'packages', 'scripts') ? '+' : '')
const kept = join(ROOT, 'test-results', 'chaos.jsonl')
spawnSync('mkdir', ['-p', join(ROOT, 'test-results')])
const MARK = '## What struck, and what was lost'
/** So many seeds to one process of tests: what fails in it fails alone. */
const BATCH = 10
let failed = 0
for (let from = first; from <= last; from += BATCH) {
  const until = Math.min(from + BATCH - 1, last)
  const folder = mkdtempSync(join(tmpdir(), 'axion-strikes-'))
  const log = join(folder, 'strikes')
  const { stdout } = spawnSync(
    process.execPath,
    [
      join(ROOT, 'node_modules/vitest/vitest.mjs'),
      'run',
      '--project',
      'integration',
      `packages/server/test/chaos/${isLarge ? 'large' : 'chaos'}.test.ts`,
    ],
    {
      cwd: ROOT,
      stdio: ['ignore', 'pipe', 'inherit'],
      encoding: 'utf8',
      maxBuffer: 2 ** 28,
      env: {
        ...process.env,
        AXION_CHAOS_SEEDS: `${from}..${until}`,
        AXION_CHAOS_LOG: log,
        ...(isLarge ? { AXION_CHAOS_DOCUMENTS: process.env.AXION_CHAOS_DOCUMENTS ?? '100000' } : {}),
        ...(isReal ? { AXION_CHAOS_WAITS: '1' } : {}),
      },
    },
  )
  const noted = existsSync(log)
    ? readFileSync(log, 'utf8')
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line))
    : []
  for (let seed = from; seed <= until; seed++) {
    const strikes = noted
      .filter((one) => isLarge || one.seed === seed)
      .map(({ kind, during }) => ({ kind, during }))
    // What is noted last is how many documents there were, once all was well.
    const passed = strikes.at(-1)?.kind === 'documents'
    appendFileSync(
      kept,
      `${JSON.stringify({ seed: isLarge ? 'large' : seed, commit, waits: isReal ? 'real' : 'a twentieth', passed, strikes })}\n`,
    )
    process.stdout.write(
      `${isLarge ? 'very many documents' : `seed ${seed}`}: ${passed ? 'passed' : 'failed'}\n`,
    )
    if (!passed) {
      failed++
      writeFileSync(join(ROOT, 'test-results', `chaos-${isLarge ? 'large' : seed}.log`), stdout ?? '')
    }
  }
  rmSync(folder, { recursive: true })
}
writeTable()
process.stdout.write(`${last - first + 1 - failed} passed, ${failed} failed\n`)
process.exit(failed === 0 ? 0 : 1)

/** How often each kind struck which step, over the seeds that are kept of this commit. */
function writeTable() {
  const runs = readFileSync(kept, 'utf8')
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line))
    .filter((run) => run.commit === commit)
  const strikes = runs.flatMap((run) => run.strikes)
  const counted = strikes.filter(({ kind, during }) => kind !== 'documents' && during !== null)
  const documents = strikes
    .filter(({ kind }) => kind === 'documents')
    .reduce((sum, { during }) => sum + Number(during), 0)
  const steps = ['reading', 'proving', 'sending']
  const kinds = [...new Set(counted.map(({ kind }) => kind))].sort()
  const rows = kinds.map((kind) => {
    const own = steps.map((step) => counted.filter((one) => one.kind === kind && one.during === step).length)
    return `| ${kind} | ${own.map((n) => n || '').join(' | ')} | ${own.reduce((a, b) => a + b, 0)} |`
  })
  const passed = runs.filter((run) => run.passed).length
  const text = [
    MARK,
    '',
    `\`npm run chaos\` at ${commit}: ${passed} of ${runs.length} seeds passed (${runs.filter((run) => run.waits === 'real').length} of them at real waits), ${documents} documents, ${counted.length} strikes while something was under way. In a seed that passed no document was lost and none was booked twice. What struck while nothing was under way is not counted.`,
    '',
    `| struck by | ${steps.join(' | ')} | in all |`,
    `|---|${steps.map(() => '---:|').join('')}---:|`,
    ...rows,
    '',
  ].join('\n')
  const file = join(ROOT, 'docs', 'benchmarks.md')
  const [before = ''] = readFileSync(file, 'utf8').split(MARK)
  writeFileSync(file, `${before.trimEnd()}\n\n${text}`)
}
