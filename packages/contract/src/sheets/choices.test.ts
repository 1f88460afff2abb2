import { describe, expect, it, test } from 'vitest'
import { AGREED_KINDS, choiceOf, type AgreedKind } from './choices.ts'
import { readRows, writeRows } from './columns.ts'
import { BASELINE_SHEETS } from './sheets.ts'

/** Whether the sheet's shape has it that this is none of the words that may stand there. */
function isNoWord(kind: AgreedKind, path: string, value: unknown): boolean {
  const { error } = BASELINE_SHEETS[kind].shape.safeParse(nested(path, value))
  return (error?.issues ?? []).some(
    (one) =>
      one.code === 'invalid_value' && one.path.filter((step) => typeof step === 'string').join('.') === path,
  )
}

describe('what a field of a form may be', () => {
  it.each(AGREED_KINDS)('of %s, is what the sheet itself takes: each of its words, and no other', (kind) => {
    for (const { path, type } of BASELINE_SHEETS[kind].columns) {
      if (type === 'flag' || type === 'covers' || type === 'whole') continue
      const as = (word: string): unknown => (type === 'list' ? [word] : word)
      const { words } = choiceOf(kind, path)
      expect([path, words !== null]).toEqual([path, isNoWord(kind, path, as('no such word'))])
      for (const word of words ?? [])
        expect([path, word, isNoWord(kind, path, as(word))]).toEqual([path, word, false])
    }
  })
})

function nested(path: string, value: unknown): object {
  return path
    .split('.')
    .reverse()
    .reduce<unknown>((inner, step) => ({ [step]: inner }), value) as object
}

test('a city with signs that part places stays one', () => {
  const jurisdiction = {
    ...{ code: 'F', name: 'F', level: 'city', parent: null, agency: null },
    covers: [
      { country: 'XA', region: 'XA-WN', city: 'Quay/Fen; 100 %2F' },
      { country: 'XA', region: 'XA-WN', postalCode: '41002' },
    ],
  }
  const sheet = BASELINE_SHEETS.jurisdictions
  const [cells = []] = writeRows(sheet, null, jurisdiction)
  const [row] = readRows(sheet, [
    { line: 1, cells: Object.fromEntries(sheet.columns.map(({ path }, at) => [path, cells[at] ?? ''])) },
  ])
  expect(row && 'value' in row ? row.value : row).toEqual(jurisdiction)
})
