import type { Scope } from '@axion/contract'

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
