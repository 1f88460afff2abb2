import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { fail, HOME, isDemo, ROOT } from './lib/home.mjs'
import { buildInterface, nodePackages } from './lib/packages.mjs'

const [major = 0, minor = 0] = process.versions.node.split('.').map(Number)
if (major < 20 || (major === 20 && minor < 19))
  fail(`Node ${process.versions.node} is too old; 20.19 or newer is needed.`)

const KNOWN = ['--dev', '--empty']
const unknown = process.argv.slice(2).filter((word) => !KNOWN.includes(word))
if (unknown.length > 0) fail(`"${unknown.join(' ')}" is not known; there are ${KNOWN.join(' and ')}.`)
const dev = process.argv.includes('--dev')
const wished = process.env.AXION_DEMO ?? ''
if (!['', 'none'].includes(wished)) fail(`AXION_DEMO is "${wished}"; it is none, or not set.`)
nodePackages()
if (!dev) buildInterface()
const { DEMO_PEOPLE, startInstallation } = await import('./lib/installation.mjs')
const demo = isDemo(HOME, process.argv.includes('--empty') || wished === 'none')
const installation = await startInstallation({ demo })

const [, preparer] = DEMO_PEOPLE
const vite = dev
  ? spawn(process.execPath, [join(ROOT, 'node_modules/vite/bin/vite.js')], {
      cwd: join(ROOT, 'packages/web'),
      stdio: 'inherit',
      env: { ...process.env, AXION_API: installation.address },
    })
  : null
const how = demo
  ? `Sign in as ${preparer.email} with the password ${preparer.password}`
  : installation.first
    ? `Nobody runs it yet. Its first administrator begins, once, at\n${installation.first}`
    : 'Sign in as one of its people.'
process.stdout.write(`
Axion is at ${installation.address}
${how}
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
