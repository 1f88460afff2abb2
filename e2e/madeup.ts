import { spawn, type ChildProcess } from 'node:child_process'
import { readFileSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createInterface } from 'node:readline'
import type { About } from '@axion/contract'
import { business } from '@axion/demo'
import { filesOf, writeBridge } from '@axion/newbridge'
import { ROOT } from '../scripts/lib/home.mjs'

/** A business that nobody has a baseline of, and two bridges to what it holds. */
export const MADE = business(2026, 600)

export interface MadeBridge {
  readonly role: 'ledger' | 'billing'
  readonly name: string
  readonly url: string
  readonly token: string
  readonly child: ChildProcess
}

/** Starts a program, and gives what it printed up to a line. */
export async function until(
  args: readonly string[],
  { cwd, env, line }: { readonly cwd: string; readonly env: Record<string, string>; readonly line: string },
): Promise<{ child: ChildProcess; said: string }> {
  const child = spawn(process.execPath, args, {
    cwd,
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  let said = ''
  for await (const each of createInterface({ input: child.stdout })) {
    said += `${each}\n`
    if (each.includes(line)) break
  }
  child.stdout.resume()
  return { child, said }
}

/**
 * Begins both bridges in a folder, as somebody would who writes their own: the ledger of tables, billing by a reading of its own; each with the
 * made-up business in place of its samples.
 */
export async function beginBridges(folder: string, portOf: () => Promise<number>): Promise<MadeBridge[]> {
  const bridges: MadeBridge[] = []
  for (const [role, name] of [
    ['ledger', 'Books'],
    ['billing', 'Invoicing'],
  ] as const) {
    const dir = join(folder, role)
    writeBridge({ role, dir, from: role === 'ledger' ? 'csv' : 'own' })
    fill(dir, role)
    symlinkSync(join(ROOT, 'node_modules'), join(dir, 'node_modules'))
    const at = await portOf()
    const { child } = await until(['--import', 'tsx', 'bridge.ts'], {
      cwd: dir,
      env: { PORT: String(at), SETTLED: '0' },
      line: 'http://',
    })
    const token = readFileSync(join(dir, 'token'), 'utf8').trim()
    bridges.push({ role, name, url: `http://127.0.0.1:${at}`, token, child })
  }
  return bridges
}

function fill(dir: string, role: 'ledger' | 'billing'): void {
  const { settings, objects } = MADE[role]
  const begun = JSON.parse(readFileSync(join(dir, 'bridge.json'), 'utf8')) as { about: About }
  writeFileSync(join(dir, 'bridge.json'), JSON.stringify({ ...begun, settings }))
  if (role === 'billing') writeFileSync(join(dir, 'sample.json'), JSON.stringify(objects))
  else
    for (const resource of begun.about.resources.filter((one) => one !== 'settings' && one !== 'balances'))
      for (const [file, content] of Object.entries(filesOf(resource, objects[resource] ?? [])))
        writeFileSync(join(dir, 'data', `${file}.csv`), content)
}
