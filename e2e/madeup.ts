import { spawn, type ChildProcess } from 'node:child_process'
import { readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs'
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
  /** What answers there. */
  readonly product: string
  readonly url: string
  readonly token: string
  readonly child: ChildProcess
}

/** Starts a program, and gives what it printed up to a line. */
export async function until(
  command: string,
  args: readonly string[],
  { cwd, env, line }: { readonly cwd: string; readonly env: Record<string, string>; readonly line: string },
): Promise<{ child: ChildProcess; said: string }> {
  const child = spawn(command, args, {
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
 * Begins both bridges in a folder, with what the made-up business holds: invoices as a folder of tables behind a bridge that was written to begin
 * with, as somebody would who has no code; and the books in Python, which take bookings.
 */
export async function beginBridges(folder: string, portOf: () => Promise<number>): Promise<MadeBridge[]> {
  return [await beginBooks(folder, await portOf()), await beginInvoicing(folder, await portOf())]
}

async function beginBooks(folder: string, port: number): Promise<MadeBridge> {
  const token = 'the token of the books'
  const objects = join(folder, 'books.json')
  const { accounts, agencies, 'tax-rates': rates } = MADE.ledger.objects
  writeFileSync(objects, JSON.stringify({ accounts, agencies, 'tax-rates': rates }))
  const program = join(ROOT, 'packages/standins/python/ledger_bridge.py')
  const { child } = await until(
    'python3',
    [program, '--port', String(port), '--token', token, '--objects', objects],
    { cwd: folder, env: {}, line: 'listening' },
  )
  return {
    role: 'ledger',
    name: 'Books',
    product: 'Pennyroyal Ledger',
    url: `http://127.0.0.1:${port}`,
    token,
    child,
  }
}

function writeTables(dir: string, resource: string, rows: Parameters<typeof filesOf>[1]): void {
  for (const [file, content] of Object.entries(filesOf(resource, rows))) {
    const table = join(dir, 'data', `${file}.csv`)
    writeFileSync(`${table}.new`, content)
    renameSync(`${table}.new`, table)
  }
}

/** What the people of the billing system do once they are told: each document that was charged wrongly is charged as it ought to be. */
export function mendInvoices(folder: string): void {
  const { wrong } = MADE.truth
  const documents = (MADE.billing.objects['documents'] ?? []).map((one) => wrong.get(one.id) ?? one)
  writeTables(join(folder, 'invoicing'), 'documents', documents)
}

async function beginInvoicing(folder: string, port: number): Promise<MadeBridge> {
  const dir = join(folder, 'invoicing')
  writeBridge({ role: 'billing', dir, from: 'csv' })
  const { settings, objects } = MADE.billing
  const begun = JSON.parse(readFileSync(join(dir, 'bridge.json'), 'utf8')) as { about: About }
  writeFileSync(join(dir, 'bridge.json'), JSON.stringify({ ...begun, settings }))
  for (const resource of begun.about.resources.filter((one) => one !== 'settings'))
    writeTables(dir, resource, objects[resource] ?? [])
  symlinkSync(join(ROOT, 'node_modules'), join(dir, 'node_modules'))
  const { child } = await until(process.execPath, ['--import', 'tsx', 'bridge.ts'], {
    cwd: dir,
    env: { PORT: String(port), SETTLED: '0' },
    line: 'http://',
  })
  const token = readFileSync(join(dir, 'token'), 'utf8').trim()
  return {
    role: 'billing',
    name: 'Invoicing',
    product: 'Sample billing',
    url: `http://127.0.0.1:${port}`,
    token,
    child,
  }
}
