import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { fail, ROOT } from './lib/home.mjs'
import { buildInterface, nodePackages } from './lib/packages.mjs'

const [major = 0, minor = 0] = process.versions.node.split('.').map(Number)
if (major < 20 || (major === 20 && minor < 19))
  fail(`Node ${process.versions.node} is too old; 20.19 or newer is needed.`)

const dev = process.argv.includes('--dev')
nodePackages()
if (!dev) buildInterface()
const { DEMO_PEOPLE, startInstallation } = await import('./lib/installation.mjs')
const installation = await startInstallation()

const [, preparer] = DEMO_PEOPLE
const vite = dev
  ? spawn(process.execPath, [join(ROOT, 'node_modules/vite/bin/vite.js')], {
      cwd: join(ROOT, 'packages/web'),
      stdio: 'inherit',
      env: { ...process.env, AXION_API: installation.address },
    })
  : null
process.stdout.write(`
Axion is at ${installation.address}
Sign in as ${preparer.email} with the password ${preparer.password}
Ctrl+C stops it; the data stays.
`)

let ending = false
for (const signal of ['SIGINT', 'SIGTERM']) {
  process.on(signal, () => {
    if (ending) return
    ending = true
    vite?.kill()
    void installation.stop().then(() => process.exit(0))
  })
}
