import { readFileSync } from 'node:fs'
import { brokenIn, headLine, headsIn, headsOf } from '../audit/chains.ts'
import { connect, inOrder } from '../database/connection.ts'
import { ownersOf } from '../settings/settings.ts'

/** Checks the chains of the trail from their beginnings, against logs that are named too, and prints where each ends. Runs as the owner of each schema. */
const logged = process.argv.slice(2).flatMap((file) => headsIn(readFileSync(file, 'utf8')))
const databases = ownersOf(process.env).map(([, address]) => connect(address, 1))
const found = await inOrder(databases, async (database) => {
  const heads = await headsOf(database)
  // A chain is looked for where it is: an entity's lives in one database.
  const own = new Set(heads.map(({ chain }) => chain))
  return {
    heads,
    broken: await brokenIn(
      database,
      logged.filter(({ chain }) => own.has(chain)),
    ),
  }
})
const heads = found.flatMap((one) => one.heads)
const chains = new Set(heads.map(({ chain }) => chain))
const gone = [...new Set(logged.map(({ chain }) => chain))].filter((chain) => !chains.has(chain))
const broken = [
  ...found.flatMap((one) => one.broken),
  ...gone.map((chain) => `${chain}: its chain is in no database`),
]
for (const head of heads) process.stdout.write(`${headLine(head)}\n`)
for (const line of broken) process.stderr.write(`axion: ${line}.\n`)
for (const database of databases) await database.destroy()
process.exitCode = broken.length > 0 ? 1 : 0
