import { escape, field, form, select, table } from '../shared/desk.ts'
import { Refusal } from '../shared/problems.ts'
import type { Store } from '../shared/store.ts'

type Plain = string | boolean | null
export type Held = Readonly<Record<string, unknown>>
const isPlain = (value: unknown): value is Plain =>
  value === null || typeof value === 'string' || typeof value === 'boolean'

/** Sets plain fields of an object to what was typed: a text to text, a flag to a flag, nothing to null where it was null or may be. */
export async function setFields(
  store: Store,
  resources: readonly string[],
  {
    resource,
    id,
    ...typed
  }: Readonly<Record<string, string>> & { readonly resource: string; readonly id: string },
): Promise<void> {
  if (!resources.includes(resource))
    throw new Refusal(404, 'unknown-resource', `There are no ${resource} here.`)
  await store.write(async (writer) => {
    const value = (await writer.get<Held>(resource, id))?.value
    if (!value) throw new Refusal(404, 'unknown-object', `There is no ${resource}/${id}.`)
    const fields = Object.entries(typed).map(([name, text]): [string, Plain] => {
      const was = name
        .split('.')
        .reduce<unknown>((at, step) => (at as Held | null | undefined)?.[step], value)
      if (!isPlain(was)) throw new Refusal(400, 'no-plain-field', `"${name}" cannot be set on this page.`)
      return [name, typeof was === 'boolean' ? text === 'yes' : text === '' && name !== 'name' ? null : text]
    })
    await writer.put(
      resource,
      id,
      fields.reduce<unknown>((whole, [name, to]) => withField(whole, name.split('.'), to), value),
    )
  })
}

/** The plain fields of a value by their paths: of set-up all of them, of documents those of the whole. */
function plainFields(value: unknown, depth: 'whole' | 'parts', path = ''): [string, Plain][] {
  if (isPlain(value)) return [[path, value]]
  if (typeof value !== 'object' || value === null || (path !== '' && depth === 'whole')) return []
  return Object.entries(value).flatMap(([key, part]) =>
    plainFields(part, depth, path === '' ? key : `${path}.${key}`),
  )
}

/** A value with one field set, by its path. */
function withField(value: unknown, [head = '', ...rest]: readonly string[], to: Plain): unknown {
  const set = (was: unknown): unknown => (rest.length === 0 ? to : withField(was, rest, to))
  if (Array.isArray(value)) return value.map((part: unknown, at) => (String(at) === head ? set(part) : part))
  return { ...(value as Held), [head]: set((value as Held)[head]) }
}

export function objectsSection(
  base: string,
  resource: string,
  objects: readonly { id: string; value: Held }[],
): string {
  const deep = !['documents', 'settlements', 'bank-lines', 'committed'].includes(resource)
  const rows = objects.map(({ id, value }) => {
    const hidden = `<input type="hidden" name="resource" value="${escape(resource)}"><input type="hidden" name="id" value="${escape(id)}">`
    const fields = plainFields(value, deep ? 'parts' : 'whole').map(([name, v]) => {
      const label = `${name} of ${id}`
      return `${escape(name)} ${
        typeof v === 'boolean'
          ? select(
              name,
              label,
              [
                ['yes', 'yes'],
                ['no', 'no'],
              ],
              v ? 'yes' : 'no',
            )
          : field(name, String(v ?? ''), label, 'size="12"')
      }`
    })
    return [
      escape(id),
      form(`${base}/desk/objects`, `${hidden}${fields.join(' ')}`, `Set ${id}`),
      form(`${base}/desk/remove`, hidden, `Remove ${id}`),
    ]
  })
  return `<section id="${escape(resource)}"><h2>${escape(resource)}</h2>${table(['Id', 'Fields', ''], rows)}</section>`
}
