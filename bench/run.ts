import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Cluster } from '../scripts/lib/cluster.mjs'
import { ROOT } from '../scripts/lib/home.mjs'
import { PAGE_ROWS } from '@axion/contract'
import { migrate } from '../packages/server/src/main/migrate.ts'
import { timeAlign } from './align.ts'
import { timeDetermination } from './determination.ts'
import { businessPart } from './business.ts'
import { dayIn } from './pull.ts'
import { score, totals, type Score } from '../packages/core/test/score/score.ts'
import { ms, ratio, say, section } from './written.ts'

/**
 * Benchmarks beside their floors, in one run: figures differ from machine to machine, ratios hardly. Writes docs/benchmarks.md, section by section:
 * all of them, or those that are named (`npm run bench -- month`).
 */
const FIXED_SEED = 20_260_901
const UNITS = Number(process.env['AXION_BENCH_UNITS'] ?? 100_000)
const [ITEMS, PARTIES] = [20_000, 5_000]
function scoreTable({ singles }: Score): string {
  const rows = [...singles].map(
    ([kind, t]) =>
      `| ${kind} | ${t.planted} | ${t.among} | ${t.first} | ${t.tellableFirst} of ${t.tellable} |`,
  )
  return [
    '| cause | planted | among the equals | first | first where the month tells them apart |',
    '|---|---:|---:|---:|---:|',
    ...rows,
  ].join('\n')
}

/** A part of the benchmarks: what it measures, written as its section. */
type Part = () => Promise<string>
const PARTS: Readonly<Record<string, Part>> = {
  determination: () => {
    const times = timeDetermination(FIXED_SEED, 4000)
    return Promise.resolve(
      section(
        'Determination',
        `${times.documents} documents of every kind, ${times.components} rows: ${ms(times.perDocument / 1000)} µs a document, ${ms(times.perComponent / 1000)} µs a row. The same sums in bare integers, without reasons, sources and findings, take ${ms(times.barePerDocument / 1000)} µs a document: ${ratio(times.perDocument, times.barePerDocument)} (wanted: 3×). An invoice of one line: ${ms(times.perComponentOfOne / 1000)} µs a row (wanted: 10).`,
      ),
    )
  },
  month: () => businessPart('A month', UNITS, dayIn.month, FIXED_SEED),
  year: () => businessPart('A year', UNITS, dayIn.year, FIXED_SEED),
  align: alignPart,
  score: () => Promise.resolve(scorePart()),
}

/** A database of its own for as long as the work takes. */
async function withDatabase<T>(
  work: (databases: { readonly owner: string; readonly app: string }) => Promise<T>,
): Promise<T> {
  const home = mkdtempSync(join(tmpdir(), 'axion-bench-'))
  const cluster = await new Cluster(home).start()
  try {
    const databases = cluster.prepare('axion', [])
    await migrate(databases.owner)
    return await work(databases)
  } finally {
    cluster.stop()
    rmSync(home, { recursive: true, force: true })
  }
}

async function alignPart(): Promise<string> {
  const align = await withDatabase(({ owner, app }) => timeAlign(owner, app, ITEMS, PARTIES))
  return section(
    'Align',
    `${align.items.toLocaleString('en-US')} items and ${align.parties.toLocaleString('en-US')} parties over ${align.systems} systems, with ${align.findings.toLocaleString('en-US')} findings among the items. *Build* works the grids of a month out from set-up and baseline, once after either changed, and *link* once one link moved; *open* and *filter* are what a page asks for then (${PAGE_ROWS} rows, counts, findings by code), beside the bare query of the same rows.

| build, ms | link, ms | open, ms | bare, ms | open ÷ bare | filter, ms | bare, ms | filter ÷ bare |
|---:|---:|---:|---:|---:|---:|---:|---:|
| ${ms(align.build)} | ${ms(align.linked)} | ${ms(align.open)} | ${ms(align.bareOpen)} | ${ratio(align.open, align.bareOpen)} | ${ms(align.filter)} | ${ms(align.bareFilter)} | ${ratio(align.filter, align.bareFilter)} |`,
  )
}

function scorePart(): string {
  const fresh = Math.floor(Math.random() * 1_000_000_000)
  const scores = [FIXED_SEED, fresh].map((seed) => {
    say(`score, seed ${seed}`)
    return score({ seed, singles: 2000, doubles: 200 })
  })
  return section(
    'Score',
    `Faults planted in generated months by a calculator that shares no code with the core; each month's equals are ranked together, as the application ranks them.

${scores
  .map((s) => {
    const t = totals(s)
    const { doubles } = s
    return `Seed ${s.seed}${s.seed === fresh ? ', fresh' : ', fixed'}: of ${s.right} right documents ${s.calledDifferent} called different; of ${t.planted + doubles.planted} wrong ones ${s.wronglyProved} proved. Singles: ${t.among} of ${t.planted} have the planted cause among the equals (${((100 * t.among) / t.planted).toFixed(2)} %), ${t.first} first; where the month's other documents tell equals apart, ${t.tellableFirst} of ${t.tellable}. Doubles: ${doubles.found} of ${doubles.planted} found, ${doubles.sized} sized to the unit, ${doubles.explained} explained by two assumptions.\n\n${scoreTable(s)}`
  })
  .join('\n\n')}`,
  )
}

const wanted = process.argv.slice(2)
const unknown = wanted.filter((one) => !(one in PARTS))
if (unknown.length > 0) {
  process.stderr.write(`no part "${unknown.join(', ')}": ${Object.keys(PARTS).join(', ')}\n`)
  process.exit(2)
}
const file = join(ROOT, 'docs/benchmarks.md')
for (const [name, part] of Object.entries(PARTS)) {
  if (wanted.length > 0 && !wanted.includes(name)) continue
  say(name)
  const written = await part()
  say(written)
  writeFileSync(file, withSection(readFileSync(file, 'utf8'), written))
}
process.exit()

/** The page with a section in place of the one of its title; a new one stands first. */
function withSection(page: string, written: string): string {
  const [title = ''] = written.split('\n')
  const [head = '', ...sections] = page.split(/^(?=## )/m)
  const at = sections.findIndex((one) => one.startsWith(`${title}\n`))
  const own = `${written.trimEnd()}\n\n`
  if (at < 0) sections.unshift(own)
  else sections[at] = own
  return `${[head, ...sections].join('').trimEnd()}\n`
}
