/** The fields that differ between two versions of an object, by their paths. */
export function fieldsOf(
  before: unknown,
  after: unknown,
): { readonly field: string; readonly from: string; readonly to: string }[] {
  const left = flatten(before)
  const right = flatten(after)
  return [...new Set([...left.keys(), ...right.keys()])]
    .filter((field) => (left.get(field) ?? '') !== (right.get(field) ?? ''))
    .map((field) => ({ field, from: left.get(field) ?? '', to: right.get(field) ?? '' }))
}

function flatten(value: unknown, path = ''): Map<string, string> {
  if (value === null || typeof value !== 'object')
    return new Map(path === '' ? [] : [[path, String(value ?? '')]])
  // A list of plain values is one field: what is in it, not at which place.
  if (Array.isArray(value) && value.every((each) => each === null || typeof each !== 'object'))
    return new Map([[path, value.map(String).join(', ')]])
  return new Map(
    Object.entries(value).flatMap(([key, part]) => [...flatten(part, path ? `${path}.${key}` : key)]),
  )
}
