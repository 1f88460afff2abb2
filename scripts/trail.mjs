import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { Cluster } from './lib/cluster.mjs'
import { fail, HOME } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/** Checks the trail's chains of this installation, against its own log of their ends and those that are named: npm run trail:check -- kept.log */
nodePackages()
if (!existsSync(join(HOME, 'postgres'))) fail(`There is no installation in ${HOME}.`)
const { runOnce } = await import('./lib/processes.mjs')
const cluster = await new Cluster(HOME).start()
const own = join(HOME, 'log', 'worker.log')
runOnce(
  'packages/server/src/main/trail.ts',
  { AXION_OWNER_DATABASE: cluster.address('axion_owner', 'axion') },
  '',
  [...(existsSync(own) ? [own] : []), ...process.argv.slice(2)],
)
