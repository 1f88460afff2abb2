import type { TieOutListQuery } from '@axion/contract'
import { NOT_POSTED } from '../documents/notPosted.ts'
import type { Listed } from '../lists/list.ts'

export type TieOutFilter = Pick<TieOutListQuery, 'cause' | 'show' | 'headline' | 'agency'>

/** The month's documents, and entries that no document stands behind, as Tie out lists them. */
export function tieOutList(
  entityId: string,
  month: string,
  { cause, show, headline, agency }: TieOutFilter,
): Listed {
  return {
    sql: `select u.*, u.named as unit, (u.unproved + u.unproved_net) as open, coalesce(u.headline, '') as state from ${show === 'not-posted' ? 'unit' : 'tie_unit'} u where u.entity_id = :entity and u.period = :month${show === 'not-posted' ? ` and ${NOT_POSTED.all}` : ''}`,
    bindings: {
      entity: entityId,
      month,
      cause: cause ?? '',
      headline: headline ?? '',
      agency: agency ?? '',
    },
    where: [
      ...(cause ? ['l.cause = :cause'] : []),
      ...(show === 'settled'
        ? ['l.settled is not null']
        : show === 'all' || show === 'not-posted' || cause
          ? []
          : ['not l.proved and l.cause is not null']),
      ...(headline ? ['(:headline = any(l.facets) or l.headline = :headline)'] : []),
      ...(agency
        ? [
            'exists (select from unit_member x where x.entity_id = l.entity_id and x.unit_id = l.unit_id and x.agency = :agency)',
          ]
        : []),
    ],
    amount: 'l.open',
    sorts: {
      open: { by: 'f.open', type: 'numeric' },
      date: { by: `(f.document_date::text || ' ' || f.number)`, type: 'text' },
      number: { by: 'f.number', type: 'text' },
      party: { by: 'lower(f.party)', type: 'text' },
      state: { by: 'f.state', type: 'text' },
    },
    usual: show === 'not-posted' ? { sort: 'date', down: false } : { sort: 'open', down: true },
  }
}
