import { indexBaseline } from '@axion/core'
import { expect, test } from 'vitest'
import { baseline } from '../../core/test/baseline.ts'
import type { Behind } from '../src/proof/gather.ts'
import { setUpOf } from '../src/proof/grounds.ts'
import { inThreads } from '../src/proof/threads.ts'
import { holdingOf, type SystemRow } from '../src/setUp/held.ts'

/** What threads come to is held against what one thread does by `anew`; this is what they cannot do. */
const row = { system_id: 'billing', role: 'billing', name: 'Billing' } as SystemRow
const setUp = setUpOf({ entityId: 'larkspur', currency: 'USD' }, indexBaseline(baseline), [
  { row, ...holdingOf({ objects: [], links: [], codes: [] }) },
])
const behind = (value: string): Behind => ({
  keys: ['billing/a'],
  documents: [
    {
      system_id: 'billing',
      document_id: 'a',
      revision: '1',
      status: 'open',
      kind: 'invoice',
      not_taken: null,
      posted: true,
      value,
    },
  ],
  entries: [],
  bookings: [],
  families: [],
  unread: [],
  served: { services: [], rows: [], unread: [] },
})
const document = {
  kind: 'invoice',
  status: 'open',
  number: 'A',
  currency: 'USD',
  lines: [],
  taxes: [],
  discount: '0.00',
  reimbursed: '0.00',
  total: '1.2.3',
}

test.each([
  ['a value that is no JSON', '{', { name: 'SyntaxError' }],
  ['an amount that is none, by its code', JSON.stringify(document), { code: 'AXION_NOT_AN_AMOUNT' }],
])('a document that cannot be worked out ends its proof as it would here: %s', async (_, value, error) => {
  await expect(inThreads(setUp, { items: [], parties: [] }, '2026-09')(behind(value))).rejects.toMatchObject(
    error,
  )
})
