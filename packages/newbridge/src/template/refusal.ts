/** What a bridge refuses, as problem details (RFC 9457): Axion shows the detail to people as it is. Nothing was written. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    /** Seconds after which it is worth asking again. */
    readonly retryAfter: number | null = null,
  ) {
    super(detail)
  }
}
