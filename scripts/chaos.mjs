import { spawnSync } from 'node:child_process'
import { appendFileSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fail, ROOT } from './lib/home.mjs'
import { faketime, nodePackages, postgresPrograms } from './lib/packages.mjs'

/**
 * Seeds of chaos against real processes: npm run chaos -- 1..25, every wait a twentieth of the usual one; npm run chaos -- 1..2 real, as they are.
 * What passed at which commit is kept in test-results/chaos.jsonl, and the table in docs/benchmarks.md is of all that is kept of this commit.
 */
nodePackages()
postgresPrograms()
faketime()
const isReal = process.argv[3] === 'real'
const [, from, to] = /^(\d+)(?:\.\.(\d+))?$/.exec(process.argv[2] ?? '1..20') ?? []
if (!from) fail(`"${process.argv[2]}" is no span of seeds; write 1..25.`)
const [first, last] = to ? [Number(from), Number(to)] : [1, Number(from)]
const git = (...args) => spawnSync('git', args, { cwd: ROOT, encoding: 'utf8' }).stdout.trim()
const commit =
  git('rev-parse', '--short', 'HEAD') + (git('status', '--porcelain', 'packages', 'scripts') ? '+' : '')
const kept = join(ROOT, 'test-results', 'chaos.jsonl')
spawnSync('mkdir', ['-p', join(ROOT, 'test-results')])
const MARK = '## What struck, and what was lost'
let failed = 0
for (let seed = first; seed <= last; seed++) {
  const folder = mkdtempSync(join(tmpdir(), 'axion-strikes-'))
  const log = join(folder, 'strikes')
  const began = performance.now()
  const { status } = spawnSync(
    process.execPath,
    [
      join(ROOT, 'node_modules/vitest/vitest.mjs'),
      'run',
      '--project',
      'integration',
      'packages/server/test/chaos/chaos.test.ts',
    ],
    {
      cwd: ROOT,
      stdio: ['ignore', 'ignore', 'inherit'],
      env: {
        ...process.env,
        AXION_CHAOS_SEEDS: `${seed}..${seed}`,
        AXION_CHAOS_LOG: log,
        ...(isReal ? { AXION_CHAOS_WAITS: '1' } : {}),
      },
    },
  )
  const strikes = existsSync(log)
    ? readFileSync(log, 'utf8')
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line))
    : []
  appendFileSync(
    kept,
    `${JSON.stringify({ seed, commit, waits: isReal ? 'real' : 'a twentieth', passed: status === 0, strikes })}\n`,
  )
  rmSync(folder, { recursive: true })
  process.stdout.write(
    `seed ${seed}: ${status === 0 ? 'passed' : 'failed'} in ${Math.round((performance.now() - began) / 1000)} s\n`,
  )
  if (status !== 0) failed++
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
