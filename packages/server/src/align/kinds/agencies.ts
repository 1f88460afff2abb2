import { findingOf } from '@axion/contract'
import { compareAgency } from '../../setUp/compare.ts'
import type { KindOfSetUp } from './kind.ts'

export const AGENCIES: KindOfSetUp = {
  kind: 'agencies',
  link: 'agency',
  resource: 'agencies',
  rows: ({ index }) =>
    index.baseline.agencies
      .map((agency) => ({
        id: agency.id,
        name: agency.name,
        group: isRegistered(index, agency.id) ? 'Registered' : 'Not registered',
        detail: index.baseline.jurisdictions
          .filter((j) => j.agencyId === agency.id)
          .map((p) => p.name)
          .join(', '),
        total: index.baseline.postingRules.find((r) => r.agencyId === agency.id)?.account ?? '',
      }))
      .sort((a, b) => (a.group === b.group ? 0 : a.group === 'Registered' ? -1 : 1)),
  needs: ({ index }, rowId, { row }) =>
    isRegistered(index, rowId) && ['ledger', 'billing'].includes(row.role),
  unneeded: ({ index }, rowId) => (isRegistered(index, rowId) ? '' : 'not registered'),
  matters: () => true,
  says: (held, objectId) => held.agencies.find((a) => a.id === objectId)?.value.name ?? '',
  about: () => [],
  compare: ({ index, date }, row, objectId, { held }) => {
    const agency = held.agencies.find((a) => a.id === objectId)?.value
    if (!agency) return { agrees: false, words: '', fields: [], found: [], remedies: [] }
    const { agrees, account, words } = compareAgency(row.id, agency, { system: held, index, date })
    const facts = {
      name: row.name,
      system: held.row.name,
      ours: account?.ours ?? '',
      theirs: account?.theirs ?? 'no account',
    }
    return {
      agrees,
      words: agrees ? agency.name : words,
      fields: account
        ? [{ field: 'Liability account', ours: account.ours ?? 'no rule', theirs: account.theirs, agrees }]
        : [],
      found: agrees ? [] : [findingOf('AXION_AGENCY_ACCOUNT', facts)],
      remedies: agrees
        ? []
        : [
            ...(held.row.about.takes.includes('agencies')
              ? [{ kind: 'liability-account', systemId: held.row.system_id, objectId } as const]
              : []),
            ...(account?.theirs != null
              ? [{ kind: 'adopt', align: 'agencies', systemId: held.row.system_id, objectId } as const]
              : []),
          ],
    }
  },
}

function isRegistered(index: Parameters<typeof AGENCIES.rows>[0]['index'], agencyId: string): boolean {
  return index.baseline.registrations.some((r) => r.agencyId === agencyId)
}
