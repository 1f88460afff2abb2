import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { Cluster } from './lib/cluster.mjs'
import { fail, HOME } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/** Moves the books of a legal entity of this installation to another of its databases, or back: npm run move -- larkspur north */
nodePackages()
if (!existsSync(join(HOME, 'postgres'))) fail(`There is no installation in ${HOME}.`)
const { runOnce } = await import('./lib/processes.mjs')
const cluster = await new Cluster(HOME).start()
runOnce(
  'packages/server/src/main/move.ts',
  { AXION_OWNER_DATABASE: cluster.address('axion_owner', 'axion') },
  '',
  process.argv.slice(2),
)
