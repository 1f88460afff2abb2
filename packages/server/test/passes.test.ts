import { expect, test } from 'vitest'
import { passes } from '../src/faults/errors.ts'

/** What ends a run as failed, and what is tried again. */
test.each<[boolean, string, string]>([
  [true, 'ECONNREFUSED', 'connect ECONNREFUSED 127.0.0.1:5432'],
  [true, '57P01', 'terminating connection due to unexpected postmaster exit'],
  [true, '40P01', 'deadlock detected'],
  [true, '53100', 'could not extend file: No space left on device'],
  [true, '55P03', 'canceling statement due to lock timeout'],
  [true, '', 'Connection terminated unexpectedly'],
  [true, '', 'ROLLBACK - Client has encountered a connection error and is not queryable'],
  [true, '', 'select 1 - Connection ended unexpectedly'],
  [true, '', 'Client was closed and is not queryable'],
  [false, '23505', 'duplicate key value violates unique constraint'],
  [false, '22003', 'numeric field overflow'],
  [false, '', 'Cannot read properties of undefined'],
  [false, '', 'a rule says: Connection ended unexpectedly'],
])('%s: %s %s', (is, code, message) =>
  expect(passes(Object.assign(new Error(message), code ? { code } : {}))).toBe(is),
)
