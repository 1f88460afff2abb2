import type { Question } from './asking.ts'

/** What units asked, by its place: each question once, those of one subject that are asked together once, and of each unit which of these. */
export interface Gathered {
  readonly texts: readonly string[]
  readonly groups: readonly (readonly number[])[]
  readonly units: readonly (readonly number[])[]
}

export function gathered(units: readonly ReadonlySet<Question>[]): Gathered {
  const places = new Map<Question, number>()
  const groups = new Map<string, { readonly place: number; readonly of: readonly number[] }>()
  const unitsOf = units.map((unit) => {
    const bySubject = new Map<string, number[]>()
    for (const question of unit) {
      let place = places.get(question)
      if (place === undefined) places.set(question, (place = places.size))
      const group = bySubject.get(question.subject)
      if (group) group.push(place)
      else bySubject.set(question.subject, [place])
    }
    return [...bySubject.values()].map((of) => {
      const key = of.sort((a, b) => a - b).join(',')
      const group = groups.get(key) ?? { place: groups.size, of }
      groups.set(key, group)
      return group.place
    })
  })
  return {
    texts: [...places.keys()].map(({ text }) => text),
    groups: [...groups.values()].map(({ of }) => of),
    units: unitsOf,
  }
}
