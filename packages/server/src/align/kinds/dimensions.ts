import { findingOf, type Dimension } from '@axion/contract'
import type { Held, HeldSystem } from '../../setUp/held.ts'
import type { KindOfSetUp } from './kind.ts'

/** Values of tracking dimensions; the ledger needs every one that is agreed. */
export const DIMENSIONS: KindOfSetUp = {
  kind: 'dimensions',
  link: 'dimension',
  resource: 'dimensions',
  rows: ({ index }) =>
    index.baseline.dimensions.map(({ id, dimension, code, name }) => ({
      id,
      name,
      group: dimension,
      detail: dimension,
      total: code,
    })),
  needs: (_, __, { row }) => row.role === 'ledger',
  matters: (held, objectId) => dimensionOf(held, objectId)?.value.active === true,
  says: (held, objectId) => dimensionOf(held, objectId)?.value.dimension ?? '',
  about: () => [],
  compare: ({ index }, row, objectId, { held }) => {
    const ours = index.baseline.dimensions.find((value) => value.id === row.id)
    const theirs = dimensionOf(held, objectId)?.value
    if (!ours || !theirs) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    return {
      agrees: theirs.active,
      words: theirs.active ? theirs.code : 'switched off',
      found: theirs.active
        ? []
        : [findingOf('AXION_DIMENSION_OFF', { name: row.name, system: held.row.name })],
      remedies:
        !theirs.active && held.row.about.takes.includes('dimensions')
          ? [{ kind: 'send', align: 'dimensions', systemId: held.row.system_id, objectId }]
          : [],
      fields: [
        { field: 'Code', ours: ours.code, theirs: theirs.code, agrees: theirs.code === ours.code },
        { field: 'In use', ours: 'yes', theirs: theirs.active ? 'yes' : 'no', agrees: theirs.active },
      ],
    }
  },
}

function dimensionOf(held: HeldSystem, objectId: string): Held<Dimension> | undefined {
  return held.dimensions.find((value) => value.id === objectId)
}
