import { may, type Sheet, type SheetColumn } from './columns.ts'

export const by = (...paths: string[]): Sheet['identity'] => ({ paths, all: true })
export const first = (...paths: string[]): Sheet['identity'] => ({ paths, all: false })
export const sheet = (
  title: string,
  {
    columns,
    shape,
    identity,
    parts = null,
  }: {
    readonly columns: readonly SheetColumn[]
    readonly shape: Sheet['shape']
    readonly identity: Sheet['identity']
    readonly parts?: string | null
  },
): Sheet => ({ title, columns, shape, identity, parts })

export const ID = may('id', 'Id')
export const address = (prefix = 'address'): SheetColumn[] => [
  may(`${prefix}.country`, 'Country'),
  may(`${prefix}.region`, 'Region'),
  may(`${prefix}.city`, 'City'),
  may(`${prefix}.postalCode`, 'Postal code'),
]
