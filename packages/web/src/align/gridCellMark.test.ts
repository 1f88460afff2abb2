import { expect, test } from 'vitest'
import { mountIn } from '../../test/mounting.ts'
import GridCellMark from './GridCellMark.vue'

test.each<[string, string, string, string, string]>([
  ['agrees', '5.50 %', '', 'holds same', '5.50 %'],
  ['differs', '1.25 % until 2026-08-31', '', 'breaks', '1.25 % until August 31, 2026'],
  ['proposed', 'to link', '2 alike', 'asks', 'to link'],
  ['none', '', '', 'open', ''],
])('a cell that %s', async (state, words, besides, wanted, said) => {
  const { page } = await mountIn(GridCellMark, { props: { state, words, besides } })
  const cell = page.get('.cell')
  expect(
    [
      cell
        .get('.state')
        .classes()
        .find((one) => ['holds', 'breaks', 'asks', 'open'].includes(one)),
      ...(cell.classes().includes('same') ? ['same'] : []),
    ].join(' '),
  ).toBe(wanted)
  // What is the same is drawn as a mark alone, and still said.
  expect(cell.get('.state').text()).toBe(said)
  expect(cell.attributes('title')).toBe([said, besides].filter(Boolean).join(', '))
  expect(cell.find('.tolink').exists()).toBe(besides !== '')
})
