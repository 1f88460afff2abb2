/**
 * A field's path as people call it: what stands in a list by its place, words apart.
 * @example fieldWords('components.0.perUnit') // 'component 1, per unit'
 */
export function fieldWords(path: string): string {
  const parts = path.split('.')
  return parts
    .flatMap((part, at) => {
      if (/^\d+$/.test(part)) return []
      const words = part
        .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
        .replaceAll(/[_-]/g, ' ')
        .toLowerCase()
      const place = parts[at + 1]
      return place !== undefined && /^\d+$/.test(place)
        ? [`${words.replace(/ies$/, 'y').replace(/(?<!s)s$/, '')} ${Number(place) + 1}`]
        : [words]
    })
    .join(', ')
}
