import { readFileSync } from 'node:fs'
import { brokenIn, headLine, headsIn, headsOf } from '../audit/chains.ts'
import { connect } from '../database/connection.ts'

/** Checks the chains of the trail from their beginnings, against logs that are named too, and prints where each ends. Runs as the owner of the schema. */
const owner = process.env['AXION_OWNER_DATABASE']
if (!owner) throw new Error('AXION_OWNER_DATABASE is not set')
const database = connect(owner, 1)
const logged = process.argv.slice(2).flatMap((file) => headsIn(readFileSync(file, 'utf8')))
const broken = await brokenIn(database, logged)
for (const head of await headsOf(database)) process.stdout.write(`${headLine(head)}\n`)
for (const line of broken) process.stderr.write(`axion: ${line}.\n`)
await database.destroy()
process.exitCode = broken.length > 0 ? 1 : 0
