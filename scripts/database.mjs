import { existsSync, writeFileSync } from 'node:fs'
import { isAbsolute } from 'node:path'
import { parseArgs } from 'node:util'
import { fail } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/** Makes a database for Axion on a server of one's own: AXION_ADMIN_DATABASE=postgres://… npm run database -- --name axion --out axion.env */
const usage =
  'usage: AXION_ADMIN_DATABASE=postgres://… npm run database -- --name axion --out axion.env [--renew]'
function read() {
  try {
    return parseArgs({
      options: {
        name: { type: 'string', default: 'axion' },
        out: { type: 'string' },
        renew: { type: 'boolean', default: false },
      },
    }).values
  } catch (error) {
    return fail(`${error.message}\n${usage}`)
  }
}
const { name, out, renew } = read()
const admin = process.env.AXION_ADMIN_DATABASE ?? ''
if (!URL.canParse(admin) || !admin.startsWith('postgres'))
  fail(`AXION_ADMIN_DATABASE is missing, or no address of a database.\n${usage}`)
if (!out) fail(`--out is missing: the file that gets the addresses, with their passwords.\n${usage}`)
if (existsSync(out)) fail(`${out} is there already, and is not written over.`)
nodePackages()
const { makeDatabase } = await import('./lib/ownServer.mjs')
let lines
try {
  lines = await makeDatabase(admin, { name, renew })
} catch (error) {
  fail(error.message)
}
writeFileSync(out, lines, { mode: 0o600, flag: 'wx' })
process.stdout.write(
  `The database ${name} and its roles are there; ${out} has their addresses. Start on it:\n  set -a; . ${isAbsolute(out) ? out : `./${out}`}; set +a; npm start -- --empty\n`,
)
