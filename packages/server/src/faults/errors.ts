/** SQLSTATE classes of what passes: a lost connection, a conflict with another transaction, too few resources, a server that stops. */
const PASSING_STATES = ['08', '40', '53', '55', '57', '58']
/** Beside the network's: a transaction that the database gave up because nothing was heard of it. */
const PASSING_CODES = ['25P03', 'ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT', 'ENOTFOUND', 'EAI_AGAIN']

/** What the driver says of a connection that is gone; the statement stands before it where there is one. */
const LOST_CONNECTION =
  /(^| - )(Connection (terminated|ended)|Client (has encountered a connection error|was closed)|timeout expired)/

/** What `enter` says to a worker of whose run another has taken over, and to everybody while an entity's books are moved. */
const TAKEN_OVER = 'AXL01'
const MOVING = 'AXL02'

export function isTakenOver(error: unknown): boolean {
  return codeOf(error) === TAKEN_OVER
}

export function isMoving(error: unknown): boolean {
  return codeOf(error) === MOVING
}

function codeOf(error: unknown): unknown {
  return (error as { code?: unknown }).code
}

/** The books of an entity are not in this database, if anywhere. */
export class NotHere extends Error {
  constructor(entityId: string) {
    super(`there is no legal entity "${entityId}"`)
  }
}

/** The database in which an entity's books are does not answer, while others do. */
export class BooksAway extends Error {
  constructor(
    /** What the database is called. */
    readonly database: string,
    options?: ErrorOptions,
  ) {
    super(`the database ${database} does not answer`, options)
  }
}

/** Whether an error is of the surroundings, so that the same work can go well later: what is not would fail for ever. */
export function passes(error: unknown): boolean {
  const { code = '', name = '', message = '' } = error as { code?: string; name?: string; message?: string }
  return (
    PASSING_CODES.includes(code) ||
    isTakenOver(error) ||
    isMoving(error) ||
    error instanceof BooksAway ||
    (/^[0-9A-Z]{5}$/.test(code) && PASSING_STATES.includes(code.slice(0, 2))) ||
    name === 'KnexTimeoutError' ||
    LOST_CONNECTION.test(message)
  )
}

/** Whether the database could not keep a value: a number too large, a text that is none, a date that it has not. */
export function isDataException(error: unknown): boolean {
  return /^22[0-9A-Z]{3}$/.test(String((error as { code?: unknown }).code ?? ''))
}
