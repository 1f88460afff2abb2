import { spawnSync } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { gunzipSync, gzipSync } from 'node:zlib'
import { fail, ROOT } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/**
 * Changes the core's rules one by one and sees whether the core's own tests notice, without the score: npm run mutants -- FOLDER …
 * What was found stands in packages/core/test/mutants/results: FOLDER.txt to be read, FOLDER.json.gz so that only what changed is tried again.
 */
const FOLDERS = ['money', 'determination', 'bookings', 'tieout', 'diagnosis', 'sales', 'crosswalk']
const LEAST = 85
const HOME = 'packages/core/test/mutants'
const results = join(ROOT, HOME, 'results')
const incremental = join(ROOT, 'reports/incremental.json')

const asked = process.argv.slice(2)
const strange = asked.filter((folder) => !FOLDERS.includes(folder))
if (strange.length > 0) fail(`${strange.join(', ')}: the folders are ${FOLDERS.join(', ')}.`)
nodePackages()
mkdirSync(results, { recursive: true })
mkdirSync(join(ROOT, 'reports'), { recursive: true })
const below = (asked.length > 0 ? asked : FOLDERS).filter((folder) => tried(folder) < LEAST)
process.stdout.write(
  below.length === 0 ? `At least ${LEAST} % noticed in each.\n` : `Below ${LEAST} %: ${below.join(', ')}\n`,
)
process.exitCode = below.length === 0 ? 0 : 1

/** File by file where one is new or changed, so that a run that is cut off goes on where it was; then all of the folder, for what changed in tests. */
function tried(folder) {
  const kept = join(results, `${folder}.json.gz`)
  rmSync(incremental, { force: true })
  if (existsSync(kept)) writeFileSync(incremental, gunzipSync(readFileSync(kept)))
  const core = `packages/core/src/${folder}`
  const sources = readdirSync(join(ROOT, core), { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts') && !file.endsWith('.test.ts'))
    .map((file) => `${core}/${file}`)
  const isTried = (file) => reported()?.files[file]?.source === readFileSync(join(ROOT, file), 'utf8')
  for (const file of sources.filter((one) => !isTried(one))) {
    process.stdout.write(`${file}\n`)
    keep(tryOut(folder, file), kept)
  }
  const report = keep(tryOut(folder, `${core}/**/*.ts,!**/*.test.ts`), kept)
  const { text, score } = summary(folder, report)
  writeFileSync(join(results, `${folder}.txt`), text)
  process.stdout.write(`${text.split('\n')[0]}\n`)
  return score
}

function reported() {
  return existsSync(incremental) ? JSON.parse(readFileSync(incremental, 'utf8')) : null
}

/** What is known of a folder's mutants once those of some files are tried; those of others stay as they were. */
function tryOut(folder, files) {
  const stryker = join(ROOT, 'node_modules/@stryker-mutator/core/bin/stryker.js')
  const { status } = spawnSync(
    process.execPath,
    [stryker, 'run', `${HOME}/stryker.config.mjs`, '--mutate', files, '--incrementalFile', incremental],
    { cwd: ROOT, stdio: ['ignore', 'ignore', 'inherit'] },
  )
  if (status !== 0) fail(`The mutants of ${folder} could not be tried.`)
  return reported()
}

/** Where it was tried is nobody else's. */
function keep({ projectRoot: _, config: __, ...report }, file) {
  writeFileSync(file, gzipSync(JSON.stringify(report), { level: 9 }))
  return report
}

/** A mutant that runs out of time counts as one that nobody noticed, unless it loops by its nature. */
function summary(folder, { files }) {
  const mutants = Object.entries(files).flatMap(([file, { source, mutants: of }]) =>
    of.map((mutant) => ({ ...mutant, file, lines: source.split('\n') })),
  )
  const counted = mutants.filter(({ status }) => !['Ignored', 'CompileError'].includes(status))
  const noticed = counted.filter(
    (mutant) => mutant.status === 'Killed' || (mutant.status === 'Timeout' && loops(mutant)),
  )
  const score = (100 * noticed.length) / counted.length
  const missed = counted.filter((mutant) => !noticed.includes(mutant)).map(say)
  return {
    score,
    text: `${folder}: ${noticed.length} of ${counted.length} noticed, ${score.toFixed(1)} %\n${missed.sort().join('')}`,
  }
}

/** Whether a change stands where a loop goes on or ends: in its head, or in what counts it. */
function loops({ lines, location }) {
  const around = lines.slice(Math.max(0, location.start.line - 6), location.end.line).join('\n')
  return /\b(?:for|while) \(/.test(around)
}

function say({ file, status, mutatorName, location, replacement, lines }) {
  const { line, column } = location.start
  const of = lines.slice(line - 1, location.end.line)
  const before = of.join('\n').slice(column - 1, of.length === 1 ? location.end.column - 1 : 80)
  const short = (text) => text.replace(/\s+/g, ' ').slice(0, 80)
  const why = status === 'Survived' ? '' : ` (${status})`
  return `${file.replace('packages/core/src/', '')}:${line} ${mutatorName}${why}: ${short(before)} → ${short(replacement)}\n`
}
