import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Cluster } from '../scripts/lib/cluster.mjs'
import { migrate } from '../packages/server/src/main/migrate.ts'
import { fill } from './tieout.ts'
import { inEntity } from '../packages/server/src/database/connection.ts'
import { prove } from '../packages/server/src/proof/prove.ts'
const units = Number(process.argv[2] ?? 20000)
const home = mkdtempSync(join(tmpdir(), 'axion-prof-'))
const cluster = await new Cluster(home).start()
try {
  const databases = cluster.prepare('axion', [])
  await migrate(databases.owner)
  const db = await fill(databases.owner, databases.app, units, 1)
  const spent = new Map<string, [number, number]>()
  const began = new Map<string, number>()
  db.on('query', (q: any) => began.set(q.__knexQueryUid, performance.now()))
  db.on('query-response', (_: any, q: any) => {
    const t = performance.now() - began.get(q.__knexQueryUid)!
    const key = q.sql.slice(0, 110).replace(/\s+/g, ' ')
    const s = spent.get(key) ?? [0, 0]
    spent.set(key, [s[0] + t, s[1] + 1])
  })
  for (const turn of ['first', 'second']) {
    spent.clear()
    const t0 = performance.now(); const c0 = process.cpuUsage()
    await inEntity(db, 'bench', (books) => prove(books, '2026-09'))
    const c = process.cpuUsage(c0)
    console.log(turn, Math.round(performance.now() - t0), 'ms; node cpu', Math.round((c.user + c.system) / 1000), 'ms; in queries', Math.round([...spent.values()].reduce((a, b) => a + b[0], 0)))
    for (const [sql, [t, n]] of [...spent].sort((a, b) => b[1][0] - a[1][0]).slice(0, 16)) console.log(Math.round(t), n, sql)
  }
  await db.destroy()
} finally { cluster.stop(); rmSync(home, { recursive: true, force: true }) }
