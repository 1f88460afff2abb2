import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { nodePackages, postgresPrograms } from './lib/packages.mjs'

/** Twenty seeds of chaos against real processes, or as many as are asked for: npm run chaos -- 5 */
nodePackages()
postgresPrograms()
const seeds = process.argv[2] ?? '20'
const { status } = spawnSync(
  process.execPath,
  [
    join(ROOT, 'node_modules/vitest/vitest.mjs'),
    'run',
    '--project',
    'integration',
    'packages/server/test/chaos.test.ts',
  ],
  { cwd: ROOT, stdio: 'inherit', env: { ...process.env, AXION_CHAOS_SEEDS: seeds } },
)
process.exit(status ?? 1)
