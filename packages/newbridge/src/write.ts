import { randomBytes } from 'node:crypto'
import { copyFileSync, existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { BRIDGE_CONTRACT, RESOURCES_OF, type About, type Settings, type SystemRole } from '@axion/contract'
import { readmeOf } from './readme.ts'
import { samplesOf } from './samples.ts'
import { filesOf } from './tablesOf.ts'

/** Where a new bridge gets its rows from: reading that is still to be written, or a folder of tables, which needs no code. */
export type From = 'own' | 'csv'

const TEMPLATE = join(dirname(fileURLToPath(import.meta.url)), 'template')
const ALWAYS = ['bridge.ts', 'changes.ts', 'balances.ts', 'refusal.ts']

/**
 * Writes a bridge into a folder: it speaks the contract from the first minute, with sample rows.
 * @returns the names of what was written
 * @throws where the folder has something in it already: nothing is written over
 */
export function writeBridge({
  role,
  dir,
  from,
}: {
  readonly role: SystemRole
  readonly dir: string
  readonly from: From
}): string[] {
  if (existsSync(dir) && readdirSync(dir).length > 0)
    throw new Error(`${dir} has something in it. Choose a folder that is empty, or none yet.`)
  mkdirSync(dir, { recursive: true })
  const written: string[] = []
  const write = (name: string, content: string, mode = 0o644): void => {
    mkdirSync(dirname(join(dir, name)), { recursive: true })
    writeFileSync(join(dir, name), content, { mode })
    written.push(name)
  }
  const copy = (name: string, as = name): void => {
    copyFileSync(join(TEMPLATE, name), join(dir, as))
    written.push(as)
  }
  for (const name of ALWAYS) copy(name)
  const samples = Object.entries(samplesOf(role))
  if (from === 'csv') {
    copy('csvSource.ts', 'source.ts')
    copy('tables.ts')
    for (const [resource, rows] of samples)
      for (const [file, content] of Object.entries(filesOf(resource, rows)))
        write(`data/${file}.csv`, content)
  } else {
    copy('source.ts')
    write('sample.json', pretty(Object.fromEntries(samples)))
  }
  write('bridge.json', pretty({ port: 4300, about: aboutOf(role), settings: settingsOf(role) }))
  write('package.json', pretty(packageOf(role, from)))
  write('token', `${randomBytes(24).toString('base64url')}\n`, 0o600)
  write('.gitignore', 'node_modules\ntoken\nstate.json\n')
  write('README.md', readmeOf(role, from))
  return written
}

const pretty = (value: object): string => `${JSON.stringify(value, null, 2)}\n`

/** What it says of itself: read alone, until whoever writes it has it take bookings. */
function aboutOf(role: SystemRole): About {
  return {
    contract: BRIDGE_CONTRACT,
    role,
    product: `Sample ${role}`,
    company: { id: 'sample', name: 'Sample Company' },
    webAddress: null,
    resources: [...RESOURCES_OF[role]],
    takes: [],
    creates: [],
    taxComputation: role === 'ledger' ? 'as-given' : null,
    idempotency: null,
    findsByExternalId: false,
    voids: false,
    longestLateCommitSeconds: null,
  }
}

function settingsOf(role: SystemRole): Settings {
  return {
    baseCurrency: 'USD',
    currencies: ['USD'],
    timeZone: 'UTC',
    taxEnabled: true,
    computesTax: ['billing', 'pos', 'commerce'].includes(role),
    keepsDocumentNumbers: true,
    pairsCreditsItself: false,
    usesAccountNumbers: true,
    lockedThrough: null,
    defaultItemTaxCode: null,
    newPartiesTaxable: null,
    defaultTaxRateId: null,
    keepsInventory: null,
    rounding: null,
  }
}

function packageOf(role: SystemRole, from: From): object {
  return {
    name: `${role}-bridge`,
    private: true,
    type: 'module',
    engines: { node: '>=20.19' },
    scripts: { start: 'node --import tsx bridge.ts' },
    dependencies: { tsx: '^4.23.15', ...(from === 'csv' ? { 'csv-parse': '^7.0.3' } : {}) },
  }
}
