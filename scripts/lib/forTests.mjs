import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { PASSING } from './cluster.mjs'
import { freePort, isFree } from './home.mjs'
import { startInstallation } from './installation.mjs'

/** An installation of its own in a temporary folder, with the demo loaded and, unless it is asked for, no month begun, for as long as the work takes. */
export async function withInstallation(work, { months = false } = {}) {
  const home = mkdtempSync(join(tmpdir(), 'axion-e2e-'))
  let port = await freePort()
  while (!(await isFree(port + 1))) port = await freePort()
  // Bridges that a test starts itself are known by their addresses beforehand.
  const more = [await freePort(), await freePort(), await freePort()]
  const bridges = more.map((one) => `http://127.0.0.1:${one}`)
  const installation = await startInstallation({ home, port, months, bridges, config: PASSING })
  try {
    return await work(installation, {
      AXION_E2E_URL: installation.address,
      AXION_E2E_STANDINS: `http://127.0.0.1:${port + 1}`,
      AXION_E2E_LEDGER_DB: installation.databases.standins[0].database,
      AXION_E2E_BILLING_DB: installation.databases.standins[1].database,
      AXION_E2E_PORTS: more.join(','),
      AXION_E2E_REPORT: join(home, 'e2e.json'),
    })
  } finally {
    await installation.stop()
    rmSync(home, { recursive: true, force: true })
  }
}
