import { existsSync, rmSync } from 'node:fs'
import { createInterface } from 'node:readline/promises'
import { fail, HOME } from './lib/home.mjs'
import { Cluster } from './lib/cluster.mjs'
import { holdHome } from './lib/lock.mjs'

if (!existsSync(HOME)) fail(`There is no data at ${HOME}.`)
const yes = process.argv.includes('--yes')
if (!yes) {
  const ask = createInterface({ input: process.stdin, output: process.stdout })
  const answer = await ask.question(
    `This removes everything under ${HOME}: database, keys and logs. Type "remove" to go on: `,
  )
  ask.close()
  if (answer.trim() !== 'remove') fail('Nothing was removed.')
}
await holdHome(HOME, 'a reset')
new Cluster(HOME).stop()
rmSync(HOME, { recursive: true, force: true })
process.stdout.write('Removed. The next npm start begins anew.\n')
