import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Cluster } from '../scripts/lib/cluster.mjs'
import { ROOT } from '../scripts/lib/home.mjs'
import { migrate } from '../packages/server/src/main/migrate.ts'
import { timeAlign, type AlignTimes } from './align.ts'
import { timeDetermination } from './determination.ts'
import { MemoryWatch } from './memory.ts'
import { score, totals, type Score } from '../packages/core/test/score/score.ts'
import { fill, timeTieOut, type TieOutTimes } from './tieout.ts'

/** Benchmarks beside their floors, in one run: figures differ from machine to machine, ratios hardly. Writes docs/benchmarks.md. */
const FIXED_SEED = 20_260_901
const UNITS = Number(process.env['AXION_BENCH_UNITS'] ?? 100_000)
const CHANGED = 1000
const [ITEMS, PARTIES] = [20_000, 5_000]
const say = (text: string): boolean => process.stdout.write(`${text}\n`)
const times = (a: number, b: number): string => `${(a / b).toFixed(a / b < 10 ? 1 : 0)}×`
const ms = (n: number): string => (n < 10 ? n.toFixed(1) : String(Math.round(n)))

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

say('determination')
const determination = timeDetermination(FIXED_SEED, 4000)

const home = mkdtempSync(join(tmpdir(), 'axion-bench-'))
const cluster = await new Cluster(home).start()
const results: TieOutTimes[] = []
let align: AlignTimes
const memory = new MemoryWatch(join(home, 'postgres'))
try {
  const databases = cluster.prepare('axion', [])
  await migrate(databases.owner)
  say('align')
  align = await timeAlign(databases.owner, databases.app, ITEMS, PARTIES)
  say(JSON.stringify(align))
  for (const astray of [1, 5, 30]) {
    say(`tie-out of ${UNITS} units, ${astray} % astray`)
    const database = await fill(databases.owner, databases.app, UNITS, astray)
    const result = await timeTieOut(database, UNITS, astray, CHANGED)
    say(JSON.stringify(result))
    results.push(result)
    await database.destroy()
  }
} finally {
  memory.stop()
  cluster.stop()
  rmSync(home, { recursive: true, force: true })
}

const fresh = Math.floor(Math.random() * 1_000_000_000)
const scores = [FIXED_SEED, fresh].map((seed) => {
  say(`score, seed ${seed}`)
  return score({ seed, singles: 2000, doubles: 200 })
})

const text = `# Benchmarks

Written by \`npm run bench\`. Times are of one shared, noisy two-core machine; the ratios, taken in the same run, are what to compare.

## Determination
${determination.documents} documents of every kind, ${determination.components} rows: ${ms(determination.perDocument / 1000)} µs a document, ${ms(determination.perComponent / 1000)} µs a row. The same sums in bare integers, without reasons, sources and findings, take ${ms(determination.barePerDocument / 1000)} µs a document: ${times(determination.perDocument, determination.barePerDocument)}.

## Align
${align.items.toLocaleString('en-US')} items and ${align.parties.toLocaleString('en-US')} parties over ${align.systems} systems, with ${align.findings.toLocaleString('en-US')} findings among the items. *Build* works the grids of a month out from set-up and baseline, once after either changed; *open* and *filter* are what a page asks for then (200 rows, counts, findings by code), beside the bare query of the same rows.

| build, ms | open, ms | bare, ms | open ÷ bare | filter, ms | bare, ms | filter ÷ bare |
|---:|---:|---:|---:|---:|---:|---:|
| ${ms(align.build)} | ${ms(align.open)} | ${ms(align.bareOpen)} | ${times(align.open, align.bareOpen)} | ${ms(align.filter)} | ${ms(align.bareFilter)} | ${times(align.filter, align.bareFilter)} |

## Tie-out
${UNITS.toLocaleString('en-US')} documents of two agencies. *Prove* works out every unit from its source document, the baseline and the journal, writes facts and signatures, and weighs and diagnoses what differs; *again* does all of that once more, and writes what came to something else, which is nothing. *Signatures* is the bare SQL comparison of what is stored; *full proof* sums every fact anew, beside a bare aggregate and join of expected and booked alone. *Re-proof* is after ${CHANGED.toLocaleString('en-US')} changed documents. *Act* agrees upon one party of a thousand: it finds what rests on that, and what is explained by the set-up as a whole, and proves it.

| astray | prove, ms | µs a unit | again, ms | signatures, ms | full proof, ms | bare join, ms | full ÷ bare | re-proof, ms | re-proof ÷ prove | act, ms | documents touched |
|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|
${results.map((r) => `| ${r.astrayPercent} % | ${ms(r.prove)} | ${ms((r.prove * 1000) / r.units)} | ${ms(r.again)} | ${ms(r.bareSignatures)} | ${ms(r.fullProof)} | ${ms(r.bareJoin)} | ${times(r.fullProof, r.bareJoin)} | ${ms(r.reproof)} | ${(r.reproof / r.prove).toFixed(3)} | ${ms(r.act)} | ${r.touched.toLocaleString('en-US')} |`).join('\n')}

The most memory that each process held at once, what it shares with others divided among them:

| process | MiB |
|---|---:|
${memory
  .most()
  .map(({ process, mebibytes }) => `| ${process} | ${mebibytes} |`)
  .join('\n')}

## Score
Faults planted in generated months by a calculator that shares no code with the core; each month's equals are ranked together, as the application ranks them.

${scores
  .map((s) => {
    const t = totals(s)
    const { doubles } = s
    return `Seed ${s.seed}${s.seed === fresh ? ', fresh' : ', fixed'}: of ${s.right} right documents ${s.calledDifferent} called different; of ${t.planted + doubles.planted} wrong ones ${s.wronglyProved} proved. Singles: ${t.among} of ${t.planted} have the planted cause among the equals (${((100 * t.among) / t.planted).toFixed(2)} %), ${t.first} first; where the month's other documents tell equals apart, ${t.tellableFirst} of ${t.tellable}. Doubles: ${doubles.found} of ${doubles.planted} found, ${doubles.sized} sized to the unit, ${doubles.explained} explained by two assumptions.\n\n${scoreTable(s)}`
  })
  .join('\n\n')}
`
// What was hostile, and what struck, stays.
const file = join(ROOT, 'docs/benchmarks.md')
const KEPT = '## What is hostile'
const [, kept] = readFileSync(file, 'utf8').split(KEPT)
writeFileSync(file, kept === undefined ? text : `${text.trimEnd()}\n\n${KEPT}${kept}`)
say(text)
