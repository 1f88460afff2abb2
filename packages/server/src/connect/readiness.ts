import { IDENTITY_CHECKS } from './readiness/identity.ts'
import { MONTH_CHECKS } from './readiness/month.ts'
import type { Check, CheckResult, ReadinessFacts, Rule } from './readiness/rule.ts'
import { STRUCTURE_CHECKS } from './readiness/structure.ts'
import { TAX_CHECKS } from './readiness/tax.ts'

export { STOCK_KINDS } from './readiness/structure.ts'
export type { CheckResult, CheckState, ReadinessFacts } from './readiness/rule.ts'

const RULES: readonly Rule[] = [...TAX_CHECKS, ...IDENTITY_CHECKS, ...STRUCTURE_CHECKS, ...MONTH_CHECKS]

export const CHECKS: readonly Check[] = RULES

export function checkReadiness(facts: ReadinessFacts): CheckResult[] {
  return RULES.filter((rule) => rule.roles.includes(facts.system.role)).map((rule) => {
    const [state, fact] = rule.test(facts)
    return { code: rule.code, state, fact }
  })
}
