import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'

/** What npm test shows a part of, whole: every listed mistake, every mutant of the core, the score, what an addition touches, all that is hostile, a hundred seeds of chaos, two at real waits, and very many documents. */
const STAGES = [
  ['mistakes', []],
  ['mutants', []],
  ['score', []],
  ['additions', []],
  ['hostile', []],
  ['chaos', ['1..100']],
  ['chaos', ['1..2', 'real']],
  ['chaos', ['large']],
]
const failed = STAGES.filter(([script, args]) => {
  process.stdout.write(`\n— ${[script, ...args].join(' ')}\n`)
  const file = join(ROOT, 'scripts', `${script}.mjs`)
  return spawnSync(process.execPath, [file, ...args], { cwd: ROOT, stdio: 'inherit' }).status !== 0
})
process.stdout.write(`\n${STAGES.length - failed.length} passed, ${failed.length} failed\n`)
process.exit(failed.length === 0 ? 0 : 1)
