import { Problem } from '@axion/contract'
import type { Answer } from './client.ts'

export interface Result {
  readonly rule: string
  readonly state: 'holds' | 'fails' | 'not-checked'
  readonly why: string
}

/** Collects what each rule came to; a rule that throws fails with what was thrown. */
export class Report {
  readonly results: Result[] = []

  async rule(rule: string, check: () => Promise<void> | void): Promise<void> {
    try {
      await check()
      this.results.push({ rule, state: 'holds', why: '' })
    } catch (error) {
      this.results.push({ rule, state: 'fails', why: (error as Error).message.slice(0, 400) })
    }
  }

  skip(rule: string, why: string): void {
    this.results.push({ rule, state: 'not-checked', why })
  }
}

export function must(holds: unknown, otherwise: string): asserts holds {
  if (!holds) throw new Error(otherwise)
}

/** A refusal has to be problem details of the status that the page names. */
export function mustRefuse(answer: Answer, status: number, what: string): void {
  must(answer.status === status, `${what} answers ${answer.status}, not ${status}`)
  const problem = Problem.safeParse(answer.body)
  must(
    problem.success && problem.data.status === status,
    `${what}: ${status} without problem details (RFC 9457)`,
  )
}
