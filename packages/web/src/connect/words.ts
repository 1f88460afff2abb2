import type { CheckView, Scope, SystemRole } from '@axion/contract'

/** When a system is pulled, as people read it. */
export function saySchedule(schedule: Scope['schedule']): string {
  if (schedule === null) return 'when somebody asks'
  return 'at' in schedule
    ? `at ${[...schedule.at].sort().join(' and ')}`
    : `every ${schedule.everyMinutes} minutes`
}

/** What a pull found of an object, as people read it. */
export const CHANGE_WORDS: Readonly<Record<string, string>> = {
  added: 'is new there',
  changed: 'changed there',
  removed: 'was taken away there',
  unreadable: 'cannot be read',
  readable: 'can be read again',
}

/** What a system is to a legal entity, as people choose it. */
export const ROLE_WORDS: Readonly<Record<SystemRole, string>> = {
  ledger: 'ledger',
  billing: 'billing',
  pos: 'point of sale',
  commerce: 'web shop',
  purchasing: 'purchasing',
  payments: 'payment processor',
  bank: 'bank',
  'tax-service': 'tax service',
}

/** How a check of readiness came out, as a mark and a word. */
export const CHECK_STATE = { passes: 'holds', fails: 'breaks', open: 'open', 'not-checked': 'open' } as const
export const CHECK_WORD: Readonly<Record<CheckView['state'], string>> = {
  passes: 'passes',
  fails: 'fails',
  open: 'not known yet',
  'not-checked': 'not checked',
}
