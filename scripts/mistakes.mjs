import { spawnSync } from 'node:child_process'
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { MISTAKES } from '../packages/core/test/mistakes/list.mjs'
import { fail, ROOT } from './lib/home.mjs'
import { nodePackages } from './lib/packages.mjs'

/** Makes each listed mistake in a copy of the core and runs the core's own tests there, without the score: npm run mistakes. */
nodePackages()
const copy = mkdtempSync(join(tmpdir(), 'axion-mistakes-'))
try {
  for (const path of ['package.json', 'tsconfig.json', 'vitest.config.ts', 'packages/core'])
    cpSync(join(ROOT, path), join(copy, path), { recursive: true })
  symlinkSync(join(ROOT, 'node_modules'), join(copy, 'node_modules'))
  if (!passes()) fail('The core’s own tests fail as it is.')
  const missed = MISTAKES.filter((mistake) => {
    const file = join(copy, 'packages/core/src', mistake.file)
    const right = readFileSync(file, 'utf8')
    if (right.split(mistake.right).length !== 2)
      fail(`"${mistake.name}": what is to be replaced stands not once in ${mistake.file}.`)
    writeFileSync(
      file,
      right.replace(mistake.right, () => mistake.wrong),
    )
    const isMissed = passes()
    writeFileSync(file, right)
    process.stdout.write(`${isMissed ? 'MISSED ' : 'noticed'} ${mistake.name}\n`)
    return isMissed
  })
  process.stdout.write(`${MISTAKES.length - missed.length} noticed, ${missed.length} missed\n`)
  process.exitCode = missed.length === 0 ? 0 : 1
} finally {
  rmSync(copy, { recursive: true, force: true })
}

function passes() {
  const vitest = join(ROOT, 'node_modules/vitest/vitest.mjs')
  return (
    spawnSync(process.execPath, [vitest, 'run', '--project', 'unit', '--bail', '1', 'packages/core/src'], {
      cwd: copy,
      stdio: 'ignore',
    }).status === 0
  )
}
