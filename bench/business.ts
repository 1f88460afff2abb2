import { DIGEST, ingestFloor, type Floor } from './floors/ingest.ts'
import { ENTITY } from './month/founded.ts'
import { PAGES, timePages, type PageTimes } from './pages.ts'
import { timeProving, type ProvingTimes } from './proving.ts'
import { timePull, type PullTimes } from './pull.ts'
import { memoryTable, ms, ratio, say, section, share, whole } from './written.ts'
import type { Spread } from './timed.ts'

/** A business of two sizes, one a tenth of the other: read, proved, asked for its pages and proved again, each beside its floor in the same run. */

interface Measured {
  readonly pages: PageTimes
  readonly proving: ProvingTimes
  readonly floor: Floor
}
type Times = PullTimes<Measured>

/** @param dayOf over which days its documents are */
export async function businessPart(
  title: string,
  units: number,
  dayOf: (at: number) => string,
  seed: number,
): Promise<string> {
  const times: Times[] = []
  for (const size of [Math.round(units / 10), units]) {
    say(`${title}: ${whole(size)} documents`)
    times.push(
      await timePull(size, dayOf, async (pulled, told) => {
        say(`read and proved: ${JSON.stringify(told)}`)
        const note = <T>(what: string, of: T): T => {
          say(`${what} ${JSON.stringify(of)}`)
          return of
        }
        const pages = await timePages(pulled, seed)
        for (const [name, taken] of Object.entries(pages.milliseconds))
          say(`${name}: ${ms(share(taken, 0.5))}, ${ms(share(taken, 0.95))} ms`)
        const proving = note('proving', await timeProving(pulled))
        const floor = note(
          'floor',
          await ingestFloor(pulled.databases, { folder: pulled.folder, entityId: ENTITY }),
        )
        return { pages, proving, floor }
      }),
    )
  }
  const [small, large] = times as [Times, Times]
  return section(
    title,
    `${whole(large.documents)} documents from five bridges, and ${whole(small.documents)}: invoices and credit notes with the entries of their ledger, receipts, refunds, orders, returns and bills, three currencies, a twentieth of the sales to an exempt party, no two alike; ${whole(large.posted - large.proved)} of ${whole(large.posted)} that are booked are astray. A worker of its own, held to a heap of 512 MB, does all of it; the floor of reading parses the same pages, sums the tax in bare integers and writes the same ${whole(large.after.floor.rows)} rows of documents, entries, units, signatures and facts into the same keyed tables under row-level security (its code: ${DIGEST}). Tables and indexes take ${times.map((one) => (one.after.pages.bytes / one.documents / 1000).toFixed(1)).join(' and ')} kB a document, all kinds together.

| work | beside | ${times.map((one) => whole(one.documents)).join(' | ')} | wanted |
|---|---|---:|---:|---:|
${figures(small, large)
  .map((row) => `| ${row.join(' | ')} |`)
  .join('\n')}

Milliseconds, half of the answers and 95 in a hundred of them within: pages by one person, lists by ten at once, each for any two filters and an order, drawn by a seed (${whole(large.after.pages.asked)} requests a list).

| | ${times.map((one) => `${whole(one.documents)}: half | 95 %`).join(' | ')} | wanted |
|---|${times.map(() => '---:|---:|').join('')}---:|
${pageRows(times).join('\n')}

${memoryTable(large.memory, small.memory)}`,
  )
}

const stepOf = (times: Times, is: (step: string) => boolean): number =>
  times.steps.filter(([step]) => is(step)).reduce((sum, [, took]) => sum + took, 0)
const proving = (times: Times): number => stepOf(times, (step) => step === 'proving')
const reading = (times: Times): number =>
  times.whole - proving(times) - stepOf(times, (step) => step === 'waiting')

const spread = ({ median, least, most }: Spread): string => `${ms(median)} (${ms(least)} to ${ms(most)})`
const seconds = (milliseconds: number): string => `${(milliseconds / 1000).toFixed(1)} s`

/** Work, what it stands beside, what it took at both sizes with the ratio, and what was wanted. */
function figures(small: Times, large: Times): string[][] {
  const row = (work: string, beside: string, of: (times: Times) => string, wanted: string): string[] => [
    work,
    beside,
    of(small),
    of(large),
    wanted,
  ]
  const ingest = (times: Times, part: (times: Times) => number): string =>
    `${seconds(part(times))}, ${((part(times) * 1000) / times.documents).toFixed(0)} µs a document: ${ratio(part(times), times.after.floor.milliseconds)}`
  const of = ({ after }: Times): ProvingTimes => after.proving
  const flat = of(large).changes / of(large).changed / (of(small).changes / of(small).changed)
  return [
    row('reading: from page bytes to checked and kept', 'floor', (t) => ingest(t, reading), ''),
    row('proving: determined, signed, weighed', 'floor', (t) => ingest(t, proving), ''),
    row('both', 'floor', (t) => ingest(t, (one) => reading(one) + proving(one)), '2×, 240 s'),
    row(
      'the floor itself',
      '',
      ({ after: { floor }, documents }) =>
        `${seconds(floor.milliseconds)}, ${((floor.milliseconds * 1000) / documents).toFixed(0)} µs a document`,
      '',
    ),
    row(
      'judging and diagnosing what differs',
      'bare recomputation of the same candidates',
      (t) =>
        `${whole(of(t).judged)} documents, ${whole(of(t).candidates)} candidates: ${spread(of(t).judging)} ms beside ${spread(of(t).recomputing)}: ${ratio(of(t).judging.median, of(t).recomputing.median)}`,
      '3×',
    ),
    row(
      'full proof from stored facts',
      'bare aggregate and join of the same columns',
      (t) =>
        `${spread(of(t).sums)} ms beside ${spread(of(t).bare)}: ${ratio(of(t).sums.median, of(t).bare.median)}; with all that pages show ${ms(of(t).sumsAndPages)}`,
      '1.5×',
    ),
    row(
      'full proof from documents: all determined anew, everything kept of them compared',
      'reading and proving',
      (t) => `${seconds(of(t).anew)}: ${ratio(of(t).anew, t.whole)}`,
      '1.2×',
    ),
    row(
      'pull of changed documents of two months, and their proof',
      'a document of it at a tenth of the size',
      (t) =>
        `${whole(of(t).changed)} in ${seconds(of(t).changes)}${t === large ? `: ${flat.toFixed(1)}×` : ''}`,
      '1.5×',
    ),
    row(
      'a party agreed upon, and what rests on it proved',
      '',
      (t) => `${whole(of(t).touched)} documents in ${seconds(of(t).act)}`,
      '',
    ),
  ]
}

const pageRows = (times: readonly Times[]): string[] =>
  Object.entries(PAGES).map(([name, { says, most }]) => {
    const each = times.map(({ after }) => {
      const taken = after.pages.milliseconds[name] ?? []
      return `${ms(share(taken, 0.5))} | ${ms(share(taken, 0.95))}`
    })
    return `| ${says} | ${each.join(' | ')} | ${most} |`
  })
