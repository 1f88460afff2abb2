import type { RuleDraft } from '@axion/contract'
import { NO_CONDITIONS, NO_OUTCOMES } from '@axion/core'

/** A rule over lines as it is written: what it says nothing of is no condition, and no outcome. */
export const draft = (
  name: string,
  when: Partial<RuleDraft['when']>,
  then: Partial<RuleDraft['then']>,
  changes: Partial<RuleDraft> = {},
): RuleDraft => ({
  ...{ code: null, name, from: '2026-09-01', to: null },
  ...changes,
  when: { ...NO_CONDITIONS, ...when },
  then: { ...NO_OUTCOMES, ...then },
})
