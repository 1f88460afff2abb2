import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Cluster } from '../scripts/lib/cluster.mjs'
import { ROOT } from '../scripts/lib/home.mjs'
import { migrate } from '../packages/server/src/main/migrate.ts'
import { timeAlign } from './align.ts'
import { timeDetermination } from './determination.ts'
import { DIGEST, ingestFloor } from './floors/ingest.ts'
import { MemoryWatch } from './memory.ts'
import { ENTITY } from './month/founded.ts'
import { PAGES, timePages, type PageTimes } from './pages.ts'
import { dayIn, timePull, type PullTimes } from './pull.ts'
import { score, totals, type Score } from '../packages/core/test/score/score.ts'
import { fill, timeTieOut, type TieOutTimes } from './tieout.ts'

/**
 * Benchmarks beside their floors, in one run: figures differ from machine to machine, ratios hardly. Writes docs/benchmarks.md, section by section:
 * all of them, or those that are named (`npm run bench -- ingest`).
 */
const FIXED_SEED = 20_260_901
const UNITS = Number(process.env['AXION_BENCH_UNITS'] ?? 100_000)
const CHANGED = 1000
const [ITEMS, PARTIES] = [20_000, 5_000]
const say = (text: string): boolean => process.stdout.write(`${text}\n`)
const ratio = (a: number, b: number): string => `${(a / b).toFixed(a / b < 10 ? 1 : 0)}×`
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

/** A part of the benchmarks: what it measures, written as its section. */
type Part = () => Promise<string>
const PARTS: Readonly<Record<string, Part>> = {
  determination: () => {
    const times = timeDetermination(FIXED_SEED, 4000)
    return Promise.resolve(
      section(
        'Determination',
        `${times.documents} documents of every kind, ${times.components} rows: ${ms(times.perDocument / 1000)} µs a document, ${ms(times.perComponent / 1000)} µs a row. The same sums in bare integers, without reasons, sources and findings, take ${ms(times.barePerDocument / 1000)} µs a document: ${ratio(times.perDocument, times.barePerDocument)}.`,
      ),
    )
  },
  ingest: ingestPart,
  pages: pagesPart,
  align: alignPart,
  'tie-out': tieOutPart,
  score: () => Promise.resolve(scorePart()),
}

const section = (title: string, text: string): string => `## ${title}\n${text.trim()}\n`

async function ingestPart(): Promise<string> {
  const pulled = await timePull(UNITS, dayIn.month, ({ databases, folder }) =>
    ingestFloor(databases, { folder, entityId: ENTITY }),
  )
  const { documents, whole, after: floor, steps, proved, posted } = pulled
  const of = (is: (step: string) => boolean): number =>
    steps.filter(([step]) => is(step)).reduce((sum, [, took]) => sum + took, 0)
  const proving = of((step) => step === 'proving')
  const reading = whole - proving - of((step) => step === 'waiting')
  const each = (milliseconds: number): string =>
    `${ms(milliseconds)} | ${((milliseconds * 1000) / documents).toFixed(0)}`
  return section(
    'From page bytes to a proved month',
    `${documents.toLocaleString('en-US')} documents of one month from five bridges: invoices and credit notes with the entries of their ledger, receipts, refunds, orders, returns and bills, three currencies, a twentieth of the sales to an exempt party, no two alike; ${(posted - proved).toLocaleString('en-US')} of ${posted.toLocaleString('en-US')} that are booked are astray. A worker of its own, held to a heap of 512 MB, reads, checks, keeps, determines, signs and proves them. The floor parses the same pages, sums the tax in bare integers and writes the same ${floor.rows.toLocaleString('en-US')} rows of documents, entries, units, signatures and facts into the same keyed tables under row-level security (its code: ${DIGEST}).

| | ms | µs a document | ÷ floor |
|---|---:|---:|---:|
| floor | ${each(floor.milliseconds)} | 1 |
| reading | ${each(reading)} | ${ratio(reading, floor.milliseconds)} |
| proving | ${each(proving)} | ${ratio(proving, floor.milliseconds)} |
| all | ${each(whole)} | ${ratio(whole, floor.milliseconds)} |

${memoryTable(pulled.memory)}`,
  )
}

async function pagesPart(): Promise<string> {
  const sizes = [Math.round(UNITS / 10), UNITS]
  const times: PullTimes<PageTimes>[] = []
  for (const size of sizes) {
    say(`pages of ${size} documents`)
    times.push(await timePull(size, dayIn.month, (pulled) => timePages(pulled, FIXED_SEED)))
  }
  const bytes = times.map(({ documents, after }) => after.bytes / documents / 1000)
  const rows = Object.entries(PAGES).map(([name, { says, most }]) => {
    const each = times.map(({ after }) => {
      const taken = after.milliseconds[name] ?? []
      return `${ms(share(taken, 0.5))} | ${ms(share(taken, 0.95))}`
    })
    return `| ${says} | ${each.join(' | ')} | ${most} |`
  })
  return section(
    'Pages',
    `The same business, read and proved, and a server of its own asked over HTTP: pages by one person, lists by ten at once, each for any two filters and an order, drawn by a seed (${(times.at(-1)?.after.asked ?? 0).toLocaleString('en-US')} requests a list). Milliseconds, half of the answers and 95 in a hundred of them within. Tables and indexes of an entity take ${bytes.map((one) => one.toFixed(1)).join(' and ')} kB a document, all kinds together.

| | ${sizes.map((size) => `${size.toLocaleString('en-US')}: half | 95 % |`).join(' ')} wanted |
|---|${sizes.map(() => '---:|---:|').join('')}---:|
${rows.join('\n')}`,
  )
}

/** The value that so large a share of all is within. */
const share = (all: readonly number[], part: number): number =>
  [...all].sort((a, b) => a - b)[Math.min(Math.floor(all.length * part), all.length - 1)] ?? 0

const memoryTable = (most: readonly { readonly process: string; readonly mebibytes: number }[]): string =>
  `The most memory that each process held at once, what it shares with others divided among them:

| process | MiB |
|---|---:|
${most.map(({ process, mebibytes }) => `| ${process} | ${mebibytes} |`).join('\n')}`

/** A database of its own for as long as the work takes, and the memory that is used meanwhile. */
async function withDatabase<T>(
  work: (databases: { readonly owner: string; readonly app: string }) => Promise<T>,
): Promise<{ readonly result: T; readonly memory: ReturnType<MemoryWatch['most']> }> {
  const home = mkdtempSync(join(tmpdir(), 'axion-bench-'))
  const cluster = await new Cluster(home).start()
  const memory = new MemoryWatch(join(home, 'postgres'))
  try {
    const databases = cluster.prepare('axion', [])
    await migrate(databases.owner)
    return { result: await work(databases), memory: memory.most() }
  } finally {
    memory.stop()
    cluster.stop()
    rmSync(home, { recursive: true, force: true })
  }
}

async function alignPart(): Promise<string> {
  const { result: align } = await withDatabase(({ owner, app }) => timeAlign(owner, app, ITEMS, PARTIES))
  return section(
    'Align',
    `${align.items.toLocaleString('en-US')} items and ${align.parties.toLocaleString('en-US')} parties over ${align.systems} systems, with ${align.findings.toLocaleString('en-US')} findings among the items. *Build* works the grids of a month out from set-up and baseline, once after either changed; *open* and *filter* are what a page asks for then (200 rows, counts, findings by code), beside the bare query of the same rows.

| build, ms | open, ms | bare, ms | open ÷ bare | filter, ms | bare, ms | filter ÷ bare |
|---:|---:|---:|---:|---:|---:|---:|
| ${ms(align.build)} | ${ms(align.open)} | ${ms(align.bareOpen)} | ${ratio(align.open, align.bareOpen)} | ${ms(align.filter)} | ${ms(align.bareFilter)} | ${ratio(align.filter, align.bareFilter)} |`,
  )
}

async function tieOutPart(): Promise<string> {
  const { result: results, memory } = await withDatabase(async ({ owner, app }) => {
    const all: TieOutTimes[] = []
    for (const astray of [1, 5, 30]) {
      say(`tie-out of ${UNITS} units, ${astray} % astray`)
      const database = await fill(owner, app, UNITS, astray)
      all.push(await timeTieOut(database, UNITS, astray, CHANGED))
      await database.destroy()
    }
    return all
  })
  return section(
    'Tie-out',
    `${UNITS.toLocaleString('en-US')} documents of two agencies. *Prove* works out every unit from its source document, the baseline and the journal, writes facts and signatures, and weighs and diagnoses what differs; *again* does all of that once more, and writes what came to something else, which is nothing. *Signatures* is the bare SQL comparison of what is stored; *full proof* sums every fact anew, beside a bare aggregate and join of expected and booked alone. *Re-proof* is after ${CHANGED.toLocaleString('en-US')} changed documents. *Act* agrees upon one party of a thousand: it finds what rests on that, and what is explained by the set-up as a whole, and proves it.

| astray | prove, ms | µs a unit | again, ms | signatures, ms | full proof, ms | bare join, ms | full ÷ bare | re-proof, ms | re-proof ÷ prove | act, ms | documents touched |
|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|
${results.map((r) => `| ${r.astrayPercent} % | ${ms(r.prove)} | ${ms((r.prove * 1000) / r.units)} | ${ms(r.again)} | ${ms(r.bareSignatures)} | ${ms(r.fullProof)} | ${ms(r.bareJoin)} | ${ratio(r.fullProof, r.bareJoin)} | ${ms(r.reproof)} | ${(r.reproof / r.prove).toFixed(3)} | ${ms(r.act)} | ${r.touched.toLocaleString('en-US')} |`).join('\n')}

${memoryTable(memory)}`,
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
