import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import pg from 'pg'
import { from, to } from 'pg-copy-streams'

/**
 * The floor under reading and proving: each page is parsed, each document's tax summed in bare integers by a table of its rates' percents, and the
 * same rows written into the same keyed tables under row-level security, by a copy into a table of the session and an insert from there. It knows
 * no register, no reasons, no difference between right and wrong. Its code is its own, and the digest of it stands beside its figures.
 */
const TABLES = ['document', 'ledger_entry', 'unit', 'determination', 'tax_fact', 'net_fact']
const SLICE = 5000

export const DIGEST = createHash('sha256')
  .update(readFileSync(new URL(import.meta.url)))
  .digest('hex')
  .slice(0, 12)

interface Wire {
  readonly kind?: string
  readonly lines: readonly { readonly amount?: string; readonly taxRateId?: string | null }[]
  readonly taxes?: readonly {
    readonly taxRateId: string
    readonly components: readonly { readonly percent: string }[] | null
  }[]
}

const integer = (decimal: string): bigint => BigInt(decimal.replace('.', ''))

/** The tax of a document in minor units, component by component, half away from nil. */
function taxIn({ lines, taxes = [] }: Wire): bigint {
  let sum = 0n
  for (const { taxRateId, components } of taxes) {
    let base = 0n
    for (const line of lines) if (line.taxRateId === taxRateId) base += integer(line.amount ?? '0')
    for (const { percent } of components ?? []) {
      const [whole = '0', fraction = ''] = percent.split('.')
      sum += (2n * base * BigInt(whole + fraction.padEnd(6, '0')) + 100_000_000n) / 200_000_000n
    }
  }
  return sum
}

export interface Floor {
  readonly milliseconds: number
  readonly documents: number
  readonly rows: number
}

/** @param folder of pages, as bridges send them */
export async function ingestFloor(
  { owner, app }: { readonly owner: string; readonly app: string },
  { folder, entityId }: { readonly folder: string; readonly entityId: string },
): Promise<Floor> {
  const [making, writing] = [
    new pg.Client({ connectionString: owner }),
    new pg.Client({ connectionString: app }),
  ]
  await Promise.all([making.connect(), writing.connect()])
  try {
    await writing.query(`select set_config('axion.entity', $1, false)`, [entityId])
    const slices: { readonly table: string; readonly columns: string; readonly file: string }[] = []
    let rows = 0
    for (const table of TABLES) {
      await making.query(`create table floor_${table} (like ${table} including defaults including generated including indexes);
        alter table floor_${table} enable row level security; alter table floor_${table} force row level security;
        create policy own on floor_${table} using (entity_id = current_setting('axion.entity')) with check (entity_id = current_setting('axion.entity'));
        grant select, insert on floor_${table} to axion_app`)
      const { rows: held } = await making.query<{ name: string }>(
        `select column_name as name from information_schema.columns where table_schema = 'public' and table_name = $1 and is_generated = 'NEVER' order by ordinal_position`,
        [table],
      )
      const columns = held.map(({ name }) => `"${name}"`).join(', ')
      // Beside the pages: there may be more rows than memory.
      let [lines, many]: [string, number] = ['', 0]
      const end = (): void => {
        if (many === 0) return
        const file = join(folder, `floor-${slices.length}.copy`)
        writeFileSync(file, lines)
        slices.push({ table, columns, file })
        ;[lines, many] = ['', 0]
      }
      const stored = writing.query(
        to(`copy (select ${columns} from ${table} where entity_id = '${entityId}') to stdout`),
      )
      for await (const line of createInterface({ input: stored })) {
        lines += `${line}\n`
        rows++
        if (++many === SLICE) end()
      }
      end()
    }
    const pages = readdirSync(folder, { recursive: true })
      .map(String)
      .filter((name) => /(documents|journal-entries)\.\d+\.json$/.test(name))
    let [documents, sum] = [0, 0n]
    const began = performance.now()
    await writing.query('begin')
    const each = Math.ceil(pages.length / Math.max(slices.length, 1))
    for (const [at, { table, columns, file }] of slices.entries()) {
      await writing.query(
        `create temp table staged on commit drop as select ${columns} from ${table} with no data`,
      )
      const copying = writing.query(from(`copy staged (${columns}) from stdin`))
      copying.end(readFileSync(file))
      const copied = once(copying, 'finish')
      // The database takes its rows meanwhile.
      for (const page of pages.slice(at * each, (at + 1) * each))
        for (const { value } of (
          JSON.parse(readFileSync(join(folder, page), 'utf8')) as { items: { value: Wire }[] }
        ).items)
          if (value.kind !== undefined) [documents, sum] = [documents + 1, sum + taxIn(value)]
      await copied
      await writing.query(`insert into floor_${table} (${columns}) select ${columns} from staged`)
      await writing.query('drop table staged')
    }
    await writing.query('commit')
    const milliseconds = performance.now() - began
    if (sum === 0n) throw new Error('nothing was taxed')
    return { milliseconds, documents, rows }
  } finally {
    await Promise.all([making.end(), writing.end()])
  }
}
