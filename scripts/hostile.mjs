import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { nodePackages, postgresPrograms } from './lib/packages.mjs'

/**
 * All that a bridge, a browser or a person can do wrong, against real processes: the list of misbehaviours, 20,000 requests that a seed
 * draws, 5,000 spoilt answers of a bridge and a file of a hundred thousand rows. npm run hostile -- 7 draws by another seed; AXION_FUZZ,
 * AXION_FUZZ_ANSWERS and AXION_IMPORT_ROWS say how many.
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
      'files',
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
      AXION_IMPORT_ROWS: process.env.AXION_IMPORT_ROWS ?? '100000',
      ...(process.argv[2] ? { AXION_FUZZ_SEED: process.argv[2] } : {}),
    },
  },
)
process.exit(status ?? 1)
