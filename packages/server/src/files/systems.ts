import {
  ALSO_OF,
  currency,
  fileResourcesOf,
  RESOURCES_OF,
  role,
  timeZone,
  type About,
  type Resource,
  type Settings,
} from '@axion/contract'
import { z } from 'zod'
import { audit } from '../audit/audit.ts'
import { seal } from '../bridges/secrets.ts'
import { type Books } from '../database/connection.ts'
import { json } from '../database/json.ts'
import { Problem } from '../faults/problem.ts'
import { noteSetUp } from '../setUp/clock.ts'
import { FILES } from '../setUp/held.ts'

/** A system that has no bridge, as somebody describes it: what it holds comes in files. */
export const SystemOfFiles = z.object({
  role: role.exclude(['bank']),
  name: z.string().min(1).max(100),
  company: z.string().min(1).max(200),
  baseCurrency: currency,
  timeZone,
  defaultItemTaxCode: z.string().max(60).nullable().default(null),
})
type SystemOfFiles = z.infer<typeof SystemOfFiles>

/** What a bridge would say of such a system: it offers what its role has, and takes nothing. */
function aboutOf(id: string, { role: of, company }: SystemOfFiles): About {
  const offered: readonly Resource[] = [...RESOURCES_OF[of], ...ALSO_OF[of]]
  return {
    contract: '1',
    role: of,
    product: 'Spreadsheets',
    company: { id, name: company },
    webAddress: null,
    resources: fileResourcesOf(of, offered),
    takes: [],
    creates: [],
    taxComputation: of === 'ledger' ? 'as-given' : null,
    idempotency: null,
    findsByExternalId: false,
    voids: false,
    longestLateCommitSeconds: null,
  }
}

function settingsOf({ baseCurrency, timeZone: zone, defaultItemTaxCode }: SystemOfFiles): Settings {
  return {
    baseCurrency,
    currencies: [baseCurrency],
    timeZone: zone,
    taxEnabled: true,
    computesTax: false,
    keepsDocumentNumbers: true,
    pairsCreditsItself: false,
    usesAccountNumbers: true,
    lockedThrough: null,
    defaultItemTaxCode,
    newPartiesTaxable: null,
    defaultTaxRateId: null,
    keepsInventory: null,
    rounding: null,
  }
}

/**
 * Takes a system on that has no bridge, or describes it anew.
 * @throws AXION_ALREADY_EXISTS where one of that id has a bridge
 */
export async function connectByFiles(
  books: Books,
  { id, ...described }: SystemOfFiles & { readonly id: string },
  secretKey: string,
): Promise<{ system: string; resources: readonly string[] }> {
  const { trx, entityId } = books
  const there = await trx('system').where({ entity_id: entityId, system_id: id }).first('address')
  if (there && there.address !== FILES)
    throw new Problem('AXION_ALREADY_EXISTS', { what: `A system ${id} with a bridge` })
  const about = aboutOf(id, described)
  await trx('system')
    .insert({
      entity_id: entityId,
      system_id: id,
      role: about.role,
      name: described.name,
      address: FILES,
      token_sealed: seal('', secretKey),
      about: json(about),
      settings: json(settingsOf(described)),
      disconnected_at: null,
    })
    .onConflict(['entity_id', 'system_id'])
    .merge()
  await audit(trx, 'connected', described.name, {
    after: {
      role: about.role,
      by: 'files',
      company: described.company,
    },
  })
  await noteSetUp(books)
  return { system: id, resources: about.resources }
}
