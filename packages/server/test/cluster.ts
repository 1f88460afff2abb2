import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { Cluster } from '../../../scripts/lib/cluster.mjs'

declare module 'vitest' {
  export interface ProvidedContext {
    clusterHome: string
  }
}

/** A real PostgreSQL of the tests' own, for as long as they run. */
export default async function (project: TestProject): Promise<() => void> {
  const home = mkdtempSync(join(tmpdir(), 'axion-tests-'))
  const cluster = await new Cluster(home).start()
  project.provide('clusterHome', home)
  return () => {
    cluster.stop()
    rmSync(home, { recursive: true, force: true })
  }
}
