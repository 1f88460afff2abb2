import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { join } from 'node:path'
import { fail, ROOT } from './home.mjs'

const isRoot = process.getuid?.() === 0

function run(command, args, options = {}) {
  const result = spawnSync(command, args, { stdio: ['ignore', 'inherit', 'inherit'], ...options })
  if (result.error || result.status !== 0)
    fail(
      `"${command} ${args.join(' ')}" failed${result.error ? `: ${result.error.message}` : ''}. Nothing of yours was changed; run it by hand to see why.`,
    )
}

/** Debian's packages that are missing. Without root it says which command to run. */
function debian(packages, why) {
  process.stdout.write(`axion: installing Debian's ${packages.join(' ')} (${why})\n`)
  if (!isRoot)
    fail(`${packages.join(' and ')} is missing (${why}). As root: apt-get install -y ${packages.join(' ')}`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  run('apt-get', ['update', '-q'], { env })
  run('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...packages], { env })
}

/** The folder of PostgreSQL's programs, the newest that is installed. */
export function postgresPrograms() {
  const find = () => {
    const base = '/usr/lib/postgresql'
    const versions = existsSync(base)
      ? readdirSync(base).filter(
          (v) => existsSync(join(base, v, 'bin/postgres')) && existsSync(join(base, v, 'bin/initdb')),
        )
      : []
    return versions.sort((a, b) => Number(b) - Number(a)).map((v) => join(base, v, 'bin'))[0]
  }
  if (!find()) {
    // Debian would start a cluster of its own beside ours, on the usual port.
    const config = '/etc/postgresql-common/createcluster.conf'
    if (isRoot && !existsSync(config)) {
      mkdirSync('/etc/postgresql-common', { recursive: true })
      writeFileSync(config, 'create_main_cluster = false\n')
    }
    debian(['postgresql'], 'the database')
  }
  return find() ?? fail('PostgreSQL was installed and its programs are not under /usr/lib/postgresql.')
}

export function chromium() {
  if (!existsSync('/usr/bin/chromium')) debian(['chromium'], 'the browser that the end-to-end tests drive')
  return '/usr/bin/chromium'
}

/** Clocks that jump, for one program alone. */
export function faketime() {
  if (!existsSync('/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1'))
    debian(['faketime'], 'clocks that jump')
}

/** For the bridge that shows that docs/bridge.md stands by itself. */
export function python() {
  if (spawnSync('python3', ['--version']).status !== 0)
    debian(['python3'], 'the small ledger bridge that the tests check')
}

/** A service runs as somebody who may not write where the program is: what has to be made there is made before, by whoever owns it. */
export function requireOwner(why) {
  try {
    accessSync(ROOT, constants.W_OK)
  } catch {
    fail(
      `Nothing can be made in ${ROOT}, and ${why}. As its owner, there: npm run build. Then start it again.`,
    )
  }
}

/** Installs the locked packages, when the lock file is not the one that was installed last. */
export function nodePackages() {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .update(process.version)
    .digest('hex')
  const mark = join(ROOT, 'node_modules/.axion-installed')
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return
  requireOwner('its packages are not those of this version')
  process.stdout.write('axion: installing packages\n')
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { cwd: ROOT })
  writeFileSync(mark, lock)
}

/** Builds the interface, when a source of it is newer than what was built. */
export function buildInterface() {
  const dist = join(ROOT, 'packages/web/dist/index.html')
  const newest = Math.max(
    ...['packages/web', 'packages/core', 'packages/contract'].map((folder) => newestIn(join(ROOT, folder))),
  )
  if (existsSync(dist) && statSync(dist).mtimeMs > newest) return
  requireOwner('its interface is not built from these sources')
  process.stdout.write('axion: building the interface\n')
  run(process.execPath, [join(ROOT, 'node_modules/vite/bin/vite.js'), 'build', '--logLevel', 'warn'], {
    cwd: join(ROOT, 'packages/web'),
  })
}

function newestIn(folder) {
  return Math.max(
    0,
    ...readdirSync(folder, { withFileTypes: true })
      .filter((e) => !['dist', 'node_modules'].includes(e.name))
      .map((e) => {
        const path = join(folder, e.name)
        return e.isDirectory() ? newestIn(path) : statSync(path).mtimeMs
      }),
  )
}
