import type { ServerResponse } from 'node:http'
import { SETTINGS, source, type Instead, type Source } from './second/source.ts'
import { makeWorld, type RunSeen, type World } from './world.ts'

/** A world with a bridge beside its two that answers as a test says. */
export const TOKEN = 'a token for the hostile'
const OWN = { ...SETTINGS, baseCurrency: 'USD', currencies: ['USD'], timeZone: 'America/Chicago' }

export async function hostileWorld(
  environment: Record<string, string>,
): Promise<{ world: World; bad: Source }> {
  const bad = await source('Hostile', OWN, TOKEN)
  const world = await makeWorld({ bridges: [bad.address], environment })
  await world.as('administrator', 'PUT', '/api/entities/larkspur/systems/hostile', {
    role: 'billing',
    name: 'Hostile',
    address: bad.address,
    token: TOKEN,
  })
  bad.put('agencies', 'a', { code: null, name: 'Somebody', liabilityAccountId: null })
  return { world, bad }
}

export const problemOf = ({ pulled }: RunSeen): string =>
  (pulled as unknown as { system: string; problem: { says: string } | null }[]).find(
    ({ system }) => system === 'Hostile',
  )?.problem?.says ?? ''
export const body = (response: ServerResponse, text: string | Buffer, type = 'application/json'): true => {
  response.writeHead(200, { 'content-type': type }).end(text)
  return true
}
/** Answers for one resource alone. */
export const at =
  (resource: string, answer: (response: ServerResponse, query: URLSearchParams) => true): Instead =>
  (path, response, query) =>
    path === resource && answer(response, query)
export const change = (sequence: string, id = 'x', value: unknown = {}): object => ({
  id,
  sequence,
  revision: '1',
  removed: false,
  value,
})
export const ITEM = { code: 'I', name: 'x', kind: 'goods', taxable: true, itemTaxCode: null }
export const page = (items: readonly object[], next: string, more = false): string =>
  JSON.stringify({ items, next, more })
