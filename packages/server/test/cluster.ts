import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { Cluster, PASSING } from '../../../scripts/lib/cluster.mjs'
import { migrate } from '../src/main/migrate.ts'
import { guardTurns } from './turn.ts'

declare module 'vitest' {
  export interface ProvidedContext {
    clusterHome: string
    /** A database that is migrated, and refuses what is written outside of a turn. */
    template: string
  }
}

const TEMPLATE = 'migrated'

/** A real PostgreSQL of the tests' own, for as long as they run. */
export default async function (project: TestProject): Promise<() => void> {
  const home = mkdtempSync(join(tmpdir(), 'axion-tests-'))
  const cluster = await new Cluster(home, {
    config: [...PASSING, 'shared_preload_libraries = pg_stat_statements'],
  }).start()
  const { owner } = cluster.prepare(TEMPLATE, [])
  await migrate(owner)
  await guardTurns(owner)
  project.provide('template', TEMPLATE)
  project.provide('clusterHome', home)
  return () => {
    cluster.stop()
    rmSync(home, { recursive: true, force: true })
  }
}
