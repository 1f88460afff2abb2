import type { WaysView } from '@axion/contract'
import { flushPromises } from '@vue/test-utils'
import { afterEach, describe, expect, it, test, vi } from 'vitest'
import { answers, mountIn, PATH } from '../../test/mounting.ts'
import WaysPanel from './WaysPanel.vue'

afterEach(() => vi.unstubAllGlobals())

const line = { level: 'line', unit: 'combined', tie: 'half-away' } as const
const region = (changes: Partial<WaysView['regions'][number]>): WaysView['regions'][number] => ({
  name: 'Wendover',
  documents: 60,
  places: [line],
  agreed: line,
  claimHolds: true,
  rates: [],
  nearest: null,
  unpredicted: [],
  more: 0,
  changedOn: null,
  ...changes,
})
const ways = (changes: Partial<WaysView>): WaysView => ({
  system: 'Tills',
  documents: 84,
  total: 84,
  claims: line,
  regions: [region({})],
  onDefault: null,
  cutOffs: [],
  ...changes,
})

async function opened(view: WaysView): Promise<string> {
  answers({ '/systems/pos/ways': view, '/path': PATH })
  const { page } = await mountIn(WaysPanel, {
    path: '/larkspur/2026-09/connect',
    props: { system: 'pos', name: 'Tills' },
  })
  const details = page.find('details')
  ;(details.element as HTMLDetailsElement).open = true
  await details.trigger('toggle')
  await flushPromises()
  return details.text().replace(/\s+/g, ' ')
}

describe('what a system’s documents show', () => {
  test.each<[string, WaysView, RegExp]>([
    [
      'as its settings say',
      ways({}),
      /From 84 documents\. Its settings say that it rounds by line, all components together, halves away from nil\..*It rounds by line, all components together, halves away from nil\./,
    ],
    ['against its settings', ways({ regions: [region({ claimHolds: false })] }), /Not as its settings say\./],
    [
      'without a claim, of some of many',
      ways({ claims: null, total: 900 }),
      /From 84 documents of 900\. Its settings do not say where it rounds\./,
    ],
    [
      'that places cannot be told apart',
      ways({ regions: [region({ places: [line, { ...line, tie: 'half-even' }] })] }),
      /halves away from nil; or by line, all components together, halves to even: its documents cannot tell these 2 apart\./,
    ],
    [
      'that something changed on a day',
      ways({
        regions: [
          region({
            places: [],
            nearest: { level: 'document', unit: 'component', tie: 'truncate' },
            unpredicted: ['Q-1', 'Q-2'],
            more: 3,
            changedOn: '2026-09-13',
          }),
        ],
      }),
      /Nearest is by document, each component by itself, cut off; it leaves Q-1, Q-2 and 3 more\..*Something changed there on 2026-09-13\./,
    ],
    [
      'how it takes a rate, and what stands on its default code',
      ways({
        regions: [region({ rates: [{ rate: 'Port Lennox', as: ['as on 2024-01-01'] }] })],
        onDefault: { code: 'GOODS', items: ['Honey'], documents: 5 },
      }),
      /Port Lennox as on 2024-01-01.*On the default code GOODS, and charged so in 5 documents: Honey/,
    ],
    [
      'when an outlet’s day ends',
      ways({
        cutOffs: [
          {
            outlet: 'Quay',
            documents: 28,
            after: '01:40',
            until: '09:05',
            claims: '03:00',
            claimHolds: true,
            odd: [],
          },
        ],
      }),
      /Quay 28 sales: its day ends after 01:40, and by 09:05 at the latest; its settings say 03:00\.\s*(?!Not)/,
    ],
    [
      'that sales are dated by the calendar, against its settings',
      ways({
        cutOffs: [
          {
            outlet: 'Quay',
            documents: 28,
            after: null,
            until: '01:02',
            claims: '02:00',
            claimHolds: false,
            odd: ['Q-7'],
          },
        ],
      }),
      /its day ends by 01:02 at the latest, or at midnight; its settings say 02:00\. Not as its settings say\. No end of the day fits Q-7\./,
    ],
    [
      'nothing, where it has no documents',
      ways({ documents: 0, total: 0, regions: [] }),
      /Nothing yet: it has no documents/,
    ],
  ])('%s', async (_, view, words) => expect(await opened(view)).toMatch(words))

  it('is asked for only when somebody opens it', async () => {
    const asked = answers({ '/systems/pos/ways': ways({}), '/path': PATH })
    await mountIn(WaysPanel, { path: '/larkspur/2026-09/connect', props: { system: 'pos', name: 'Tills' } })
    expect(asked.filter((a) => a.path.endsWith('/ways'))).toEqual([])
  })
})
