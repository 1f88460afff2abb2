import type { Facts } from '@axion/core'

/** `stops`: documents fail, or lose their split. `costs`: puts tax at stake. `settle`: moves no tax, and should be settled before it does. */
export const SEVERITIES = ['stops', 'costs', 'settle'] as const
export type Severity = (typeof SEVERITIES)[number]

export interface FindingWords<F = Facts> {
  readonly severity: Severity
  readonly title: string
  /** What was found, with the facts in it. */
  readonly says: (facts: F) => string
  /** What it means for the tax. */
  readonly means: string
  readonly mend: string
}

export type With<K extends string> = Readonly<Record<K, string>>
export const words = <F>(
  severity: Severity,
  {
    title,
    says,
    means,
    mend,
  }: {
    readonly title: string
    readonly says: (facts: F) => string
    readonly means: string
    readonly mend: string
  },
): FindingWords<F> => ({ severity, title, says, means, mend })
