import type { Scope } from '@axion/contract'

/** When a system is pulled, as people read it. */
export function saySchedule(schedule: Scope['schedule']): string {
  if (schedule === null) return 'when somebody asks'
  return 'at' in schedule
    ? `at ${[...schedule.at].sort().join(' and ')}`
    : `every ${schedule.everyMinutes} minutes`
}
