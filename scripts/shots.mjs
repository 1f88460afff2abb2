import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { ROOT } from './lib/home.mjs'
import { buildInterface, chromium, nodePackages } from './lib/packages.mjs'

/** Refreshes docs/screenshots: walks the demo month in an installation of its own, and takes each main view on the way. */
nodePackages()
chromium()
buildInterface()
const { withInstallation } = await import('./lib/forTests.mjs')
const status = await withInstallation(
  (_installation, env) =>
    spawnSync(
      process.execPath,
      [join(ROOT, 'node_modules/@playwright/test/cli.js'), 'test', '-c', 'e2e/shots.config.ts'],
      {
        cwd: ROOT,
        stdio: 'inherit',
        env: { ...process.env, ...env, AXION_SHOTS: join(ROOT, 'docs/screenshots') },
      },
    ).status,
  { months: true },
)
process.exit(status ?? 1)
