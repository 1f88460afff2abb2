import pg from 'pg'

const UNIQUE_VIOLATION = '23505'
const EXCLUSION_VIOLATION = '23P01'

/** Whether an error is the database refusing a double, told by its SQLSTATE. */
export function isDouble(error: unknown): boolean {
  return sqlState(error) === UNIQUE_VIOLATION
}

export function isOverlap(error: unknown): boolean {
  return sqlState(error) === EXCLUSION_VIOLATION
}

/** The SQLSTATE that the database gave an error; none where the error is not the database's. */
export function sqlState(error: unknown): string | undefined {
  return error instanceof pg.DatabaseError ? error.code : undefined
}
