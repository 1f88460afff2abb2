import { say, saying } from '@axion/contract'
import { BooksAway, isMoving } from './errors.ts'

/** Why nothing is known of an entity just now; null where it is no matter of where its books are. */
export function whyAway(
  error: unknown,
): { readonly code: string; readonly says: string; readonly mend: string } | null {
  const problem =
    error instanceof BooksAway
      ? saying('AXION_BOOKS_AWAY', { database: error.database })
      : isMoving(error)
        ? saying('AXION_BOOKS_MOVING', {})
        : null
  return problem && { code: problem.code, ...say(problem.code, problem.facts) }
}
