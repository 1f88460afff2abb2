import type { GridObject, GridView } from '@axion/contract'
import { NO_LIMITS } from './mounting.ts'

/** A grid of two rows and one that only a system has, as the page is given it. */
export const object = (changes: Partial<GridObject>): GridObject => ({
  id: 't1',
  name: 'Fenwick',
  linked: true,
  gone: false,
  agrees: true,
  words: '7.45 %',
  evidence: ['same-code'],
  clear: false,
  names: null,
  fields: [],
  finding: 'ledger|combined-rate|t1',
  ...changes,
})
export const remedy = {
  kind: 'component-percent',
  systemId: 'ledger',
  objectId: 't1',
  jurisdictionId: 'HOLLIS',
} as const
export const view: GridView = {
  kind: 'rates',
  currency: 'USD',
  clearLinks: 3,
  clearInAll: 3,
  limits: NO_LIMITS,
  findings: 3,
  stake: '12.00',
  offset: 0,
  total: 3,
  inBaseline: 2,
  byCode: [
    { code: 'AXION_RATE_PERCENT', title: 'Another percent', severity: 'costs', findings: 1, stake: '12.00' },
  ],
  systems: [
    {
      id: 'ledger',
      name: 'Ledger',
      role: 'ledger',
      webAddress: 'https://books.example',
      pulledAt: '2026-10-02T12:00:00Z',
      changes: 1,
    },
    {
      id: 'billing',
      name: 'Billing',
      role: 'billing',
      webAddress: null,
      pulledAt: '2026-10-02T12:00:00Z',
      changes: 0,
    },
  ],
  rows: [
    {
      id: 'FEN',
      name: 'Fenwick Falls',
      group: 'Wendover',
      detail: '5.50 + 1.45',
      total: '6.95 %',
      extra: null,
      keys: 'ledger|combined-rate|t1',
      documents: 4,
      findings: [
        {
          key: 'FEN 0',
          code: 'AXION_RATE_PERCENT',
          severity: 'costs',
          says: 'Ledger has Fenwick Falls at 6.75 %, not 6.95 %.',
          mend: 'Send it.',
          system: 'Ledger',
          systemId: 'ledger',
          left: null,
        },
      ],
      stake: '12.00',
      moved: null,
      shared: false,
      cells: [
        {
          systemId: 'ledger',
          state: 'differs',
          words: '6.75, not 6.95',
          remedies: [remedy],
          objects: [
            object({
              agrees: false,
              words: '6.75, not 6.95',
              fields: [{ field: 'Hollis', ours: '1.45 %', theirs: '1.25 %', agrees: false }],
            }),
          ],
        },
        {
          systemId: 'billing',
          state: 'proposed',
          words: '6.95 %',
          remedies: [],
          objects: [
            object({
              id: 'b1',
              linked: false,
              evidence: ['near-name'],
              names: {
                left: [{ text: 'Fenwick', same: true }],
                right: [
                  { text: 'Fenwick', same: true },
                  { text: ' ', same: false },
                ],
              },
            }),
          ],
        },
      ],
    },
    {
      id: 'RES',
      name: 'Rest of state',
      group: 'Wendover',
      detail: '5.50',
      total: '5.50 %',
      extra: null,
      keys: '',
      findings: [],
      documents: 9,
      stake: '0.00',
      moved: null,
      shared: false,
      cells: [
        { systemId: 'ledger', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] },
        { systemId: 'billing', state: 'agrees', words: '5.50 %', objects: [object({})], remedies: [] },
      ],
    },
    {
      id: 'billing x1',
      name: 'By hand',
      group: 'Held by a system, and linked to nothing',
      detail: 'in Billing',
      total: '',
      keys: 'billing|combined-rate|x1',
      findings: [],
      documents: 0,
      stake: '0.00',
      moved: null,
      shared: false,
      extra: {
        systemId: 'billing',
        system: 'Billing',
        objectId: 'x1',
        candidates: [{ id: 'FEN', name: 'Fenwick Falls', evidence: ['near-name'] }],
      },
      cells: [
        { systemId: 'ledger', state: 'none', words: '', objects: [], remedies: [] },
        {
          systemId: 'billing',
          state: 'differs',
          words: '8.95 by hand, no parts',
          remedies: [],
          objects: [
            object({
              id: 'x1',
              name: 'By hand',
              linked: false,
              agrees: false,
              words: '8.95 by hand, no parts',
            }),
          ],
        },
      ],
    },
  ],
}
export const at = { path: '/larkspur/2026-09/align/rates' }
