import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { ROOT } from './lib/home.mjs'
import { buildInterface, chromium, nodePackages, postgresPrograms, python } from './lib/packages.mjs'

/** Walks an installation of one's own from the terminal's link to a proved month at a person's pace: npm run walk [-- --seconds 2]. */
const { values } = parseArgs({ options: { seconds: { type: 'string', default: '2' } } })
if (!/^\d{1,2}(\.\d+)?$/.test(values.seconds)) {
  process.stderr.write(`walk: --seconds is "${values.seconds}"; it is a number of seconds, as 2.\n`)
  process.exit(2)
}
nodePackages()
postgresPrograms()
python()
chromium()
buildInterface()
const { status } = spawnSync(
  process.execPath,
  [
    join(ROOT, 'node_modules/@playwright/test/cli.js'),
    ...['test', '-c', 'e2e/playwright.config.ts', '--project', 'own', '--no-deps'],
  ],
  { cwd: ROOT, stdio: 'inherit', env: { ...process.env, AXION_WALK: values.seconds } },
)
process.exit(status ?? 1)
