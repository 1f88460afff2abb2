import { spawnSync } from 'node:child_process'
import {
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fail, ROOT } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/**
 * What an addition touches: each is made in a scratch copy by its one obvious edit, and the compiler then names every file in which it
 * was forgotten. docs/architecture.md has the same table. npm run additions.
 */
const ADDITIONS = [
  {
    name: 'a kind of document',
    file: 'packages/contract/src/bridge/kinds.ts',
    right: "  receipt: { ...SALE, word: 'Receipt', role: 'pos', counter: true },\n",
    with: "  receipt: { ...SALE, word: 'Receipt', role: 'pos', counter: true },\n  barter: { ...SALE, word: 'Barter', role: 'pos', counter: true },\n",
    touches: [],
  },
  {
    name: 'a cause',
    file: 'packages/core/src/diagnosis/causes/index.ts',
    right: '  sign: oppositeSign,\n',
    with: "  sign: oppositeSign,\n  barter: { ...oppositeSign, kind: 'barter', apply: (_: { readonly kind: 'barter' }) => null } as const,\n",
    touches: ['packages/server/src/tieout/causes.ts'],
  },
  {
    name: 'a role of a system',
    file: 'packages/contract/src/bridge/kinds.ts',
    right: "  'bank',\n",
    with: "  'bank',\n  'barter',\n",
    touches: [
      'packages/contract/src/bridge/resources.ts',
      'packages/server/src/align/kinds/accounts.ts',
      'packages/web/src/connect/SystemStreams.vue',
    ],
  },
  {
    name: 'a finding',
    file: 'packages/contract/src/sentences/findings/places.ts',
    right: 'export const PLACES_FINDINGS = {\n',
    with: "export const PLACES_FINDINGS = {\n  AXION_BARTER: words('settle', { title: '', says: (f: With<'name'>) => f['name'], means: '', mend: '' }),\n",
    touches: [],
  },
  {
    name: 'a kind of set-up, with its page in Align',
    file: 'packages/contract/src/api/align.ts',
    right: "  'dimensions',\n] as const\nexport const AlignKind",
    with: "  'dimensions',\n  'barter',\n] as const\nexport const AlignKind",
    touches: [
      'packages/contract/src/api/align.ts',
      'packages/server/src/align/kinds/index.ts',
      'packages/server/src/align/plans/create.ts',
      'packages/web/src/align/words.ts',
      'packages/web/src/practice/practice.test.ts',
    ],
  },
]

nodePackages()
const copy = mkdtempSync(join(tmpdir(), 'axion-additions-'))
try {
  for (const path of [
    'package.json',
    'tsconfig.json',
    'vitest.config.ts',
    'packages',
    'bench',
    'e2e',
    'scripts',
  ])
    cpSync(join(ROOT, path), join(copy, path), {
      recursive: true,
      filter: (from) => !/node_modules|\/dist(\/|$)/.test(from),
    })
  // Packages see the copies of each other, and everything else as it is installed.
  mkdirSync(join(copy, 'node_modules/@axion'), { recursive: true })
  for (const name of readdirSync(join(ROOT, 'node_modules')).filter((name) => name !== '@axion'))
    symlinkSync(join(ROOT, 'node_modules', name), join(copy, 'node_modules', name))
  for (const name of readdirSync(join(ROOT, 'node_modules/@axion')))
    symlinkSync(join(copy, 'packages', name), join(copy, 'node_modules/@axion', name))
  for (const addition of ADDITIONS) {
    const file = join(copy, addition.file)
    const right = readFileSync(file, 'utf8')
    if (right.split(addition.right).length !== 2)
      fail(`"${addition.name}": what it stands beside is not once in ${addition.file}.`)
    writeFileSync(
      file,
      right.replace(addition.right, () => addition.with),
    )
    const { stdout } = spawnSync(
      process.execPath,
      [join(ROOT, 'node_modules/vue-tsc/bin/vue-tsc.js'), '-p', 'tsconfig.json'],
      { cwd: copy, encoding: 'utf8', maxBuffer: 2 ** 26 },
    )
    writeFileSync(file, right)
    const files = [...new Set([...stdout.matchAll(/^(\S+?)\(\d+,\d+\): error/gm)].map(([, path]) => path))]
    const asWritten = files.sort().join() === [...addition.touches].sort().join()
    process.stdout.write(
      `${addition.name}: ${addition.file}, and ${files.length} that do not compile without it\n`,
    )
    for (const path of files) process.stdout.write(`  ${path}\n`)
    if (!asWritten) {
      process.stdout.write(`  but what is written down is ${addition.touches.join(', ') || 'none'}\n`)
      process.exitCode = 1
    }
  }
} finally {
  rmSync(copy, { recursive: true, force: true })
}
