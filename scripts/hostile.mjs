import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { nodePackages, postgresPrograms } from './lib/packages.mjs'

/**
 * All that a bridge, a browser or a person can do wrong, against real processes: the list of misbehaviours, 20,000 requests that a seed
 * draws and 5,000 spoilt answers of a bridge. npm run hostile -- 7 draws by another seed; AXION_FUZZ and AXION_FUZZ_ANSWERS say how many.
 */
nodePackages()
postgresPrograms()
const { status } = spawnSync(
  process.execPath,
  [
    join(ROOT, 'node_modules/vitest/vitest.mjs'),
    'run',
    '--project',
    'integration',
    ...[
      'hostile',
      'misbehaving',
      'clocks',
      'lastingLog',
      'passes',
      'edge',
      'turns',
      'together',
      'trail',
      'revive',
      'badInput',
      'fuzz/',
    ].map((name) => `packages/server/test/${name}`),
  ],
  {
    cwd: ROOT,
    stdio: 'inherit',
    env: {
      ...process.env,
      AXION_HOSTILE: 'all',
      AXION_FUZZ: process.env.AXION_FUZZ ?? '20000',
      AXION_FUZZ_ANSWERS: process.env.AXION_FUZZ_ANSWERS ?? '5000',
      ...(process.argv[2] ? { AXION_FUZZ_SEED: process.argv[2] } : {}),
    },
  },
)
process.exit(status ?? 1)
