import type { TieOutListQuery } from '@axion/contract'
import { NOT_POSTED } from '../documents/notPosted.ts'
import type { Books } from '../database/connection.ts'
import { ORDERS, type Listed } from '../lists/list.ts'
import { onOwnWord, ownWordOf } from './ownWord.ts'

export type TieOutFilter = Pick<TieOutListQuery, 'cause' | 'show' | 'headline' | 'agency'>

/** The month's documents, and entries that no document stands behind, as Tie out lists them. */
export async function tieOutList(
  books: Books,
  month: string,
  { cause, show, headline, agency }: TieOutFilter,
): Promise<Listed> {
  const own = show === 'own-word' ? onOwnWord(await ownWordOf(books)) : null
  return {
    table: 'unit',
    month,
    bindings: { cause: cause ?? '', headline: headline ?? '', agency: agency ?? '', ...own?.bindings },
    where: [
      show === 'not-posted' ? NOT_POSTED.all('l') : 'l.posted',
      // What has a cause is not proved: so the index of causes knows it.
      ...(cause ? ['l.cause = :cause and not l.proved'] : []),
      ...(show === 'settled'
        ? ['l.settled is not null']
        : show === 'all' || show === 'not-posted' || show === 'overridden' || own || cause
          ? []
          : ['not l.proved and l.cause is not null']),
      ...(own ? [own.sql] : []),
      ...(show === 'overridden' ? ['l.overridden'] : []),
      ...(headline ? ['(:headline = any(l.facets) or l.headline = :headline)'] : []),
      ...(agency
        ? [
            'exists (select from tax_fact x where x.entity_id = l.entity_id and x.unit_id = l.unit_id and x.agency = :agency and x.tax <> 0)',
          ]
        : []),
    ],
    amount: 'open',
    sorts: { ...ORDERS, open: [{ column: 'open', type: 'bigint' }] },
    usual: show === 'not-posted' ? { sort: 'date', down: false } : { sort: 'open', down: true },
  }
}
