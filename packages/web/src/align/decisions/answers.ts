import type { AskedAnswers, SeenView } from '@axion/contract'

/** What is typed of a registration: empty where nothing is. Days are ISO dates. */
export interface Row {
  number: string
  from: string
}
export interface CertificateTyped extends Row {
  to: string
  regions: string[]
  /** What can be ticked: where its documents went, and what somebody added. */
  offered: string[]
}

export const registrationRow = (): Row => ({ number: '', from: '' })
/** @param regions where the party's documents went: chosen until somebody says otherwise */
export const certificateRow = (regions: readonly string[]): CertificateTyped => ({
  ...registrationRow(),
  to: '',
  regions: [...regions],
  offered: [...regions],
})

const isWhole = ({ number, from }: Row): boolean => number.trim() !== '' && from !== ''

/** The rows that are whole; the form itself asks for what others lack. */
export function answersOf(
  registrations: readonly { readonly agency: string; readonly row: Row }[],
  certificates: readonly { readonly party: string; readonly row: CertificateTyped }[],
): AskedAnswers {
  return {
    registrations: registrations
      .filter(({ row }) => isWhole(row))
      .map(({ agency, row: { number, from } }) => ({ agency, number: number.trim(), from })),
    certificates: certificates
      .filter(({ row }) => isWhole(row) && row.regions.length > 0)
      .map(({ party, row: { number, from, to, regions } }) => ({
        ...{ party, number: number.trim(), regions: [...regions], from },
        to: to === '' ? null : to,
      })),
  }
}

const DAY = /^\d{4}-\d{2}-\d{2}$/

/** What was copied out of a spreadsheet, by row: a number, and the day beside it where that is one. */
function spread(text: string): (readonly [number: string, from?: string])[] {
  const rows = text.replace(/\r\n?/g, '\n').replace(/\n+$/, '').split('\n')
  return rows.map((row) => {
    const [number = '', day] = row.split('\t').map((cell) => cell.trim())
    return day !== undefined && DAY.test(day) ? [number, day] : [number]
  })
}

type Thing = SeenView['groups'][number]['things'][number]

/** On what the weakest of several stands. */
export function stateOf(things: readonly Pick<Thing, 'standing'>[]): Thing['standing'] {
  const found = (['changed', 'alone', 'seen'] as const).find((state) =>
    things.some(({ standing }) => standing === state),
  )
  return found ?? 'checked'
}

const STANDING_WORDS: Readonly<Record<Thing['standing'], string>> = {
  checked: 'its own text',
  seen: 'what systems agree upon',
  alone: 'the word of one system',
  changed: 'a change that nobody checked',
}
export function standingWord(standing: Thing['standing']): string {
  return STANDING_WORDS[standing]
}

/** Puts a column that was copied out of a spreadsheet into the rows from one on, with the days beside it; one cell is pasted as ever. */
export function pasteDown(rows: readonly Row[], at: number, event: ClipboardEvent): void {
  const cells = spread(event.clipboardData?.getData('text') ?? '')
  if (cells.length < 2 && cells[0]?.[1] === undefined) return
  event.preventDefault()
  cells.forEach(([number = '', from = ''], below) => {
    const row = rows[at + below]
    if (row) Object.assign(row, { number }, from === '' ? {} : { from })
  })
}
