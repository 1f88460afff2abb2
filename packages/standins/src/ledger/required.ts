import { Refusal } from '../shared/problems.ts'
import type { Writer } from '../shared/store.ts'

export async function requireAccount(writer: Writer, id: string): Promise<void> {
  if (!(await writer.get('accounts', id)))
    throw new Refusal(422, 'unknown-account', `There is no account "${id}" in this ledger.`)
}

/** Only values that are there and in use, and one of each dimension. */
export async function requireDimensions(
  writer: Writer,
  ids: readonly string[],
  number: string,
): Promise<void> {
  const seen = new Set<string>()
  for (const id of ids) {
    const value = (
      await writer.get<{ readonly dimension: string; readonly active: boolean }>('dimensions', id)
    )?.value
    if (!value?.active)
      throw new Refusal(
        422,
        'unknown-dimension',
        `The dimension value "${id}" on ${number} is not in use in this ledger.`,
      )
    if (seen.has(value.dimension))
      throw new Refusal(
        422,
        'two-of-a-dimension',
        `${number} has a line with two values of ${value.dimension}.`,
      )
    seen.add(value.dimension)
  }
}
