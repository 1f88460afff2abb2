import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { fail, ROOT } from './home.mjs'
import { requireOwner } from './packages.mjs'

/** What is built to run without the browser, by its source: programs, and the threads that they begin. */
export const PROGRAMS = {
  'packages/server/src/main/server.ts': 'server',
  'packages/server/src/main/worker.ts': 'worker',
  'packages/server/src/main/setUp.ts': 'setUp',
  'packages/server/src/main/checkSettings.ts': 'checkSettings',
  'packages/server/src/main/trail.ts': 'trail',
  'packages/standins/src/main.ts': 'standins',
  'packages/demo/src/load.ts': 'load',
  'packages/server/src/reading/thread.ts': 'reading-thread',
  'packages/server/src/proof/thread.ts': 'proof-thread',
}
const PACKAGES = ['core', 'contract', 'demo', 'standins', 'server']
const BUILDS = join(ROOT, 'packages/server/dist')
/** A program that runs begins threads of its own build, also where others were made since. */
const KEPT = 5

/** The digest of every source that a program can be made of, and of what makes them. */
function sources() {
  const digest = createHash('sha256')
  const files = PACKAGES.flatMap((name) =>
    readdirSync(join(ROOT, 'packages', name, 'src'), { recursive: true }).map((file) =>
      join('packages', name, 'src', file),
    ),
  )
  const own = ['package-lock.json', 'scripts/lib/programs.mjs', 'scripts/lib/buildPrograms.mjs']
  for (const file of [...files.filter((one) => /(?<!\.test)\.ts$/.test(one)).sort(), ...own])
    digest
      .update(file)
      .update('\0')
      .update(readFileSync(join(ROOT, file)))
      .update('\0')
  return digest.digest('hex').slice(0, 16)
}

/** The folder of what is built of the sources as they are, built now where it is not there. */
export function built() {
  const at = join(BUILDS, sources())
  if (existsSync(at)) return at
  requireOwner('its programs are not built from these sources')
  const { status, stderr } = spawnSync(process.execPath, [join(ROOT, 'scripts/lib/buildPrograms.mjs'), at], {
    encoding: 'utf8',
  })
  if (status !== 0) fail(`The programs could not be built: ${stderr.trim()}`)
  const age = (name) => statSync(join(BUILDS, name)).mtimeMs
  for (const old of readdirSync(BUILDS)
    .sort((a, b) => age(b) - age(a))
    .slice(KEPT))
    rmSync(join(BUILDS, old), { recursive: true, force: true })
  return at
}

/** What works documents out makes much that is soon forgotten: with room for more of it (MB) a fifth of the worker's time is spared. */
const NODE = { 'packages/server/src/main/worker.ts': ['--max-semi-space-size=32'] }

/** All programs of an installation are of one build, as long as it is there. */
let folder = null

/** What Node is told to run one of our programs: what is built of it, built now where sources changed; any other as it is written. */
export function told(file) {
  const name = PROGRAMS[file]
  if (name === undefined)
    return ['--import', join(ROOT, 'node_modules/tsx/dist/esm/index.mjs'), join(ROOT, file)]
  if (folder === null || !existsSync(folder)) folder = built()
  return [...(NODE[file] ?? []), join(folder, `${name}.js`)]
}
