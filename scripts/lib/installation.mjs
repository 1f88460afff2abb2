import { join } from 'node:path'
import { Cluster } from './cluster.mjs'
import {
  DEMO_TODAY,
  fail,
  HOME,
  isFree,
  noteBegun,
  notePlace,
  portSetting,
  ROOT,
  secrets,
  wasBroughtBack,
} from './home.mjs'
import { holdHome } from './lock.mjs'
import { databasesNamed } from './ownServer.mjs'
import { Processes, runOnce, runQuietly, untilAnswers } from './processes.mjs'

export const DEMO_PEOPLE = [
  {
    email: 'admin@larkspur.example',
    name: 'Ines Aldous',
    password: 'hive-and-honey',
    mayCreateEntities: true,
  },
  {
    email: 'preparer@larkspur.example',
    name: 'Kofi Imre',
    password: 'hive-and-honey',
    mayCreateEntities: false,
  },
  {
    email: 'reviewer@larkspur.example',
    name: 'Marit Soll',
    password: 'hive-and-honey',
    mayCreateEntities: false,
  },
  {
    email: 'viewer@larkspur.example',
    name: 'Pia Wren',
    password: 'hive-and-honey',
    mayCreateEntities: false,
  },
]

/** The simulated systems of the demo's entities. */
const DEMO_SYSTEMS = [
  { path: 'ledger', kind: 'ledger', database: 'standin_ledger' },
  { path: 'billing', kind: 'billing', database: 'standin_billing' },
  ...[
    ['pos', 'pos'],
    ['commerce', 'commerce'],
    ['purchasing', 'purchasing'],
    ['payments', 'payments'],
    ['payments-web', 'payments'],
    ['bank', 'bank'],
  ].map(([path, kind]) => ({ path, kind, database: `standin_${path.replace('-', '_')}` })),
  ...[['saltmarsh', 'tax-service'], ['fernhollow', 'purchasing'], ['quillon']].flatMap(([entity, ...more]) =>
    ['ledger', 'billing', ...more].map((kind) => ({
      path: `${entity}-${kind}`,
      kind,
      database: `standin_${entity}_${kind.replace('-', '_')}`,
    })),
  ),
]

/** Every setting of server and worker that is wrong is told, before anything is started. */
function checkSettings(bridges) {
  const { status, stderr } = runQuietly('packages/server/src/main/checkSettings.ts', {
    AXION_DATABASE: 'postgres://later',
    AXION_SECRET_KEY: '0'.repeat(64),
    AXION_BRIDGES: [process.env.AXION_BRIDGES, ...bridges].filter(Boolean).join(','),
  })
  if (status === 0) return
  process.stderr.write(stderr)
  fail('Nothing was started. Mend the settings above, then start again.')
}

/**
 * Starts database, server and worker; with the demo, the simulated systems of its businesses too, and its data, loaded once.
 * @param demo whether it is the demo, or an installation of one's own, which begins with nobody and nothing
 * @param months whether some months of the demo are worked at the first start, through the API
 * @param bridges addresses that bridges may have, beside those of the setting and of the stand-ins
 * @param config settings of its database beside its own
 */
export async function startInstallation({
  home = HOME,
  port = portSetting(),
  web = join(ROOT, 'packages/web/dist'),
  months = process.env.AXION_DEMO_MONTHS !== 'none',
  bridges = [],
  config = [],
  demo = true,
} = {}) {
  const letGo = await holdHome(
    home,
    `process ${process.pid}, started ${new Date().toISOString()}, at http://127.0.0.1:${port}`,
  )
  for (const wanted of [port, port + 1]) {
    if (!(await isFree(wanted)))
      fail(
        `Port ${wanted} is taken. Stop what uses it, or set AXION_PORT to another (it and the next one up are used).`,
      )
  }
  const external = databasesNamed(process.env)
  if (external && demo)
    fail('The demo has a PostgreSQL of its own. With a database of your own, start with --empty.')
  noteBegun(home, { demo, external: external !== null })
  const standins = demo ? [`http://127.0.0.1:${port + 1}/`] : []
  checkSettings(bridges)
  const cluster = external ? null : new Cluster(home, { config })
  let processes = null
  // However a start or what it started ends: nothing of it is left behind.
  const leaveNothing = () => {
    for (const child of processes?.running.values() ?? []) child.kill('SIGKILL')
    cluster?.stop()
  }
  process.once('exit', leaveNothing)
  await cluster?.start()
  const databases = external ?? cluster.prepare('axion', demo ? DEMO_SYSTEMS : [])
  const kept = secrets(home)
  const env = {
    AXION_PORT: String(port),
    AXION_DATABASE: databases.app,
    AXION_SECRET_KEY: kept.secretKey,
    AXION_BRIDGES: [process.env.AXION_BRIDGES, ...standins, ...bridges].filter(Boolean).join(','),
    AXION_WEB: web,
    ...(demo
      ? {
          AXION_TODAY: process.env.AXION_TODAY ?? DEMO_TODAY,
          AXION_STANDINS_PORT: String(port + 1),
          AXION_STANDINS_TOKEN: kept.standinsToken,
          AXION_STANDINS_SYSTEMS: JSON.stringify(databases.standins),
        }
      : {}),
  }
  const first = runOnce(
    'packages/server/src/main/setUp.ts',
    {
      AXION_OWNER_DATABASE: databases.owner,
      // Where the disk itself was set back nobody can see it, and somebody says so.
      ...(wasBroughtBack(home) || process.env.AXION_RESTORED === '1' ? { AXION_RESTORED: '1' } : {}),
    },
    demo ? JSON.stringify(DEMO_PEOPLE) : '',
    [],
    'pipe',
  )
  notePlace(home)
  processes = new Processes(home, env)
  if (demo) processes.start('standins', 'packages/standins/src/main.ts')
  processes.start('server', 'packages/server/src/main/server.ts', {
    AXION_KEYS_DATABASE: databases.keys,
  })
  // One home has one worker: what the one before held when it died is its own.
  processes.start('worker', 'packages/server/src/main/worker.ts', { AXION_WORKER: home })
  if (demo) await untilAnswers(`http://127.0.0.1:${port + 1}/ledger/desk`)
  await untilAnswers(`http://127.0.0.1:${port}/api/health`)
  if (demo) loadDemo(port, kept.standinsToken, months)
  // Whoever has a server of their own keeps it running.
  const unwatch = cluster?.keepRunning()
  const stop = async () => {
    unwatch?.()
    await processes.stop()
    cluster?.stop()
    process.removeListener('exit', leaveNothing)
    letGo()
  }
  const address = `http://127.0.0.1:${port}`
  return {
    ...{ port, cluster, databases, processes, stop, address },
    // Where its first administrator begins, while nobody runs it.
    first: first && address + first,
  }
}

/** Founds the demo's businesses and connects their systems, through the API. */
function loadDemo(port, token, months) {
  const [admin] = DEMO_PEOPLE
  runOnce('packages/demo/src/load.ts', {
    AXION_DEMO_SERVER: `http://127.0.0.1:${port}`,
    AXION_DEMO_STANDINS: `http://127.0.0.1:${port + 1}`,
    AXION_DEMO_TOKEN: token,
    AXION_DEMO_EMAIL: admin.email,
    AXION_DEMO_PASSWORD: admin.password,
    AXION_DEMO_MONTHS: months ? 'worked' : 'none',
    AXION_DEMO_MEMBERS: JSON.stringify(
      DEMO_PEOPLE.map(({ email }) => [email, email.split('@')[0].replace('admin', 'administrator')]),
    ),
  })
}
