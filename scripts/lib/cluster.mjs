import { spawnSync } from 'node:child_process'
import { chownSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { join } from 'node:path'
import { fail, freePort, secrets } from './home.mjs'
import { postgresPrograms } from './packages.mjs'

const isRoot = process.getuid?.() === 0

/** PostgreSQL does not run as root: its programs then run as the user that Debian's package made. */
function postgresUser() {
  if (!isRoot) return null
  const [, , uid, gid] =
    readFileSync('/etc/passwd', 'utf8')
      .split('\n')
      .map((line) => line.split(':'))
      .find(([name]) => name === 'postgres') ?? []
  if (!uid || !gid) fail('The user postgres does not exist, and PostgreSQL refuses to run as root.')
  const plain = [`--reuid=${uid}`, `--regid=${gid}`, '--clear-groups']
  // A folder that only root may enter is still reached: the user gets root's right to search folders, where root has it, and no other.
  const searching = [
    ...plain,
    ...['inh', 'ambient'].map((set) => `--${set}-caps=-all,+dac_read_search`),
    '--bounding-set=-all,+dac_read_search',
  ]
  const allowed = spawnSync('setpriv', [...searching, 'true']).status === 0
  return { uid: Number(uid), gid: Number(gid), as: allowed ? searching : plain }
}

/** How often it is looked whether the database is there. */
const WATCH_MS = 3000

function isListening(port) {
  return new Promise((told) => {
    const socket = connect(port, '127.0.0.1')
    socket.once('error', () => told(false))
    socket.once('connect', () => {
      socket.destroy()
      told(true)
    })
  })
}

/** Settings of a database of which nothing is wanted once the machine fell: it need not wait for the disk. Nor does it look at tables by itself: what the planner knows of them, Axion told it. */
export const PASSING = [
  'fsync = off',
  'synchronous_commit = off',
  'full_page_writes = off',
  'autovacuum = off',
]

/** A private PostgreSQL cluster on loopback, with its data in a folder of its own. */
export class Cluster {
  /**
   * @param clock what the server is told of the time, beside the machine's clock
   * @param config settings of the server beside its own, where it is made here
   */
  constructor(home, { clock = {}, config = [] } = {}) {
    this.home = home
    this.clock = clock
    this.config = config
    this.data = join(home, 'postgres')
    this.portFile = join(home, 'postgres.port')
    this.log = join(home, 'postgres-log')
    this.secrets = secrets(home)
    this.programs = postgresPrograms()
    this.user = postgresUser()
  }

  run(program, args, { input, quiet, detached } = {}) {
    const command = join(this.programs, program)
    const options = {
      input,
      encoding: 'utf8',
      cwd: '/',
      env: {
        PATH: process.env.PATH,
        LC_ALL: 'C.UTF-8',
        PGPASSWORD: this.secrets.admin,
      },
      stdio: detached ? 'ignore' : [input === undefined ? 'ignore' : 'pipe', 'pipe', 'pipe'],
    }
    const told = detached
      ? ['env', ...Object.entries(this.clock).map(([name, value]) => `${name}=${value}`)]
      : []
    const [bin, ...argv] = [...(this.user ? ['setpriv', ...this.user.as] : []), ...told, command, ...args]
    const result = spawnSync(bin, argv, options)
    if (result.status !== 0 && !quiet)
      fail(
        `${program} failed: ${(result.stderr || result.error?.message || `status ${result.status}`).trim()} (log: ${this.log})`,
      )
    return result
  }

  /** @param at the port that it listens at where it is not running yet; any that is free where none is said */
  async start(at) {
    mkdirSync(this.home, { recursive: true })
    if (!existsSync(join(this.data, 'PG_VERSION'))) this.initialise()
    const theirs = readFileSync(join(this.data, 'PG_VERSION'), 'utf8').trim()
    const [, ours] = /(\d+)/.exec(this.run('postgres', ['--version']).stdout) ?? []
    if (theirs !== ours)
      fail(
        `The data in ${this.data} is of PostgreSQL ${theirs}, and ${ours} is installed. Install postgresql-${theirs}, or take another AXION_HOME; nothing was changed.`,
      )
    const running = this.run('pg_ctl', ['-D', this.data, 'status'], { quiet: true }).status === 0
    if (!running) {
      this.port = at ?? (await freePort())
      writeFileSync(this.portFile, String(this.port))
      this.run(
        'pg_ctl',
        ['-D', this.data, '-l', this.log, '-w', '-t', '120', '-o', `-p ${this.port}`, 'start'],
        { detached: true },
      )
    }
    this.port = Number(readFileSync(this.portFile, 'utf8'))
    return this
  }

  /**
   * Starts the database again, at the address that everybody knows, whenever nothing listens there: it was killed, or fell.
   * Asked so often that a fall is over within a minute; what it still holds of its last life may make several tries of it.
   * @returns how to stop watching
   */
  keepRunning(everyMs = WATCH_MS) {
    let fallen = false
    const watch = setInterval(() => {
      if (fallen) return
      isListening(this.port).then((listens) => {
        if (listens || fallen) return
        fallen = true
        process.stderr.write('axion: the database is down and is started again\n')
        this.run('pg_ctl', ['-D', this.data, '-l', this.log, '-W', '-o', `-p ${this.port}`, 'start'], {
          detached: true,
          quiet: true,
        })
        setTimeout(() => (fallen = false), everyMs)
      })
    }, everyMs)
    return () => clearInterval(watch)
  }

  stop() {
    if (existsSync(this.data))
      this.run('pg_ctl', ['-D', this.data, '-m', 'fast', '-w', 'stop'], { quiet: true })
  }

  initialise() {
    rmSync(this.data, { recursive: true, force: true })
    mkdirSync(this.data, { mode: 0o700 })
    const passwordFile = join(this.home, 'initdb-password')
    writeFileSync(passwordFile, this.secrets.admin, { mode: 0o600 })
    writeFileSync(this.log, '')
    if (this.user)
      for (const path of [this.data, passwordFile, this.log]) chownSync(path, this.user.uid, this.user.gid)
    this.run('initdb', [
      '-D',
      this.data,
      '-U',
      'axion_admin',
      '-A',
      'scram-sha-256',
      '--pwfile',
      passwordFile,
      '-E',
      'UTF8',
      '--locale=C.UTF-8',
      '--no-instructions',
    ])
    rmSync(passwordFile)
    const config = [
      "listen_addresses = '127.0.0.1'",
      "unix_socket_directories = ''",
      'max_connections = 120',
      'shared_buffers = 256MB',
      "timezone = 'UTC'",
      ...this.config,
    ]
    writeFileSync(join(this.data, 'postgresql.auto.conf'), `${config.join('\n')}\n`)
    if (this.user) chownSync(join(this.data, 'postgresql.auto.conf'), this.user.uid, this.user.gid)
  }

  sql(statements, database = 'postgres') {
    return this.run(
      'psql',
      [
        '-h',
        '127.0.0.1',
        '-p',
        String(this.port),
        '-U',
        'axion_admin',
        '-d',
        database,
        '-v',
        'ON_ERROR_STOP=1',
        '-qAt',
        '-f',
        '-',
      ],
      { input: statements },
    ).stdout.trim()
  }

  address(role, database) {
    return `postgres://${role}:${this.secrets[role.replace(/^(axion|standin)_/, '')]}@127.0.0.1:${this.port}/${database}`
  }

  /**
   * Makes the roles, and the databases of one installation and its simulated systems, where they are missing.
   * @param template whose schema a new database of the installation begins with; an empty one where none is said
   */
  prepare(axion, standins, template = 'template1') {
    const roles = [
      'axion_owner',
      'axion_app',
      'axion_keys',
      'standin_ledger',
      'standin_billing',
      'standin_sources',
    ]
    const ownerOf = (kind) => (['ledger', 'billing'].includes(kind) ? `standin_${kind}` : 'standin_sources')
    const role = (name) =>
      `do $$ begin if not exists (select from pg_roles where rolname = '${name}') then create role ${name} login; end if; end $$; alter role ${name} password '${this.secrets[name.replace(/^(axion|standin)_/, '')]}';`
    const made = (database, owner, from, others) => `
      select 'create database ${database} owner ${owner} template ${from}' where not exists (select from pg_database where datname = '${database}') \\gexec
      revoke all on database ${database} from public;
      grant connect on database ${database} to ${[owner, ...others].join(', ')};`
    this.sql(`
      select pg_advisory_lock(4100);
      ${roles.map(role).join('\n')}
      ${made(axion, 'axion_owner', template, ['axion_app', 'axion_keys'])}
      ${standins.map(({ kind, database }) => made(database, ownerOf(kind), 'template1', [])).join('')}
      \\connect ${axion}
      revoke create on schema public from public;
      grant temporary on database ${axion} to axion_app;
      grant usage on schema public to axion_app, axion_keys;
      grant all on schema public to axion_owner;`)
    return {
      owner: this.address('axion_owner', axion),
      app: this.address('axion_app', axion),
      keys: this.address('axion_keys', axion),
      standins: standins.map(({ path, kind, database }) => ({
        path,
        kind,
        database: this.address(ownerOf(kind), database),
      })),
    }
  }
}
