import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/** The score in full: 2,000 single faults and their doubles planted on a fixed seed and on a fresh one (AXION_SCORE says how many). */
nodePackages()
const vitest = join(ROOT, 'node_modules/vitest/vitest.mjs')
const { status } = spawnSync(
  process.execPath,
  [vitest, 'run', '--project', 'unit', 'packages/core/test/score'],
  { cwd: ROOT, stdio: 'inherit', env: { ...process.env, AXION_SCORE: process.env.AXION_SCORE ?? '2000' } },
)
process.exit(status ?? 1)
