import { RESOURCES_OF, type About, type AskedView, type Resource, type Settings } from '@axion/contract'
import type { EntityOfPerson } from '../access/sessions.ts'
import { loadBaseline } from '../baseline/load.ts'
import { inEntity } from '../database/connection.ts'
import type { Services } from '../services/services.ts'
import { connectedSystems } from '../setUp/held.ts'
import { servicesOf } from './computing.ts'
import { ask, requireTheSame, type Connection } from './connecting.ts'
import { checkReadiness } from './readiness.ts'
import { sayChecks } from './view.ts'

/**
 * Asks a bridge who it is, for somebody who knows nothing of the entity but that they were invited: what it says of itself, and no more.
 * @throws what a bridge may be refused for; see `ask`
 */
export async function askAlone(services: Services, connection: Connection): Promise<AskedView> {
  const { about, settings } = await answersOf(services, connection)
  return { ...sayAbout(about, settings), twins: [], checks: [] }
}

/**
 * Asks a bridge who it is and how it is set up, before anything is kept: what it offers, and which checks of readiness it passes or fails already.
 * @throws what a bridge may be refused for; see `ask` and `requireTheSame`
 */
export async function askBefore(
  services: Services,
  connection: Connection,
  entity: Pick<EntityOfPerson, 'id' | 'name' | 'currency'>,
  month: string,
): Promise<AskedView> {
  const { about, settings } = await answersOf(services, connection)
  return inEntity(services.database, entity.id, async (books) => {
    const { systemId, name, address, role } = connection
    const kept = (await books
      .trx('system')
      .where({ entity_id: entity.id, system_id: systemId })
      .first('about', 'role', 'address')) as Parameters<typeof requireTheSame>[1] | undefined
    if (kept) requireTheSame(name, kept, about)
    const others = (await connectedSystems(books)).filter((one) => one.system_id !== systemId)
    const serving = await servicesOf(books)
    const results = checkReadiness({
      system: {
        system_id: systemId,
        role,
        name,
        address,
        token_sealed: Buffer.alloc(0),
        about,
        settings,
        goesOut: true,
      },
      ...{ about, settings, entity, month },
      baseline: await loadBaseline(books),
      ...NOTHING_PULLED,
      others: others.map((one) => ({ ...one, served: serving(one.system_id).length > 0 })),
      servedBy: serving(systemId),
    })
    return {
      ...sayAbout(about, settings),
      twins: others
        .filter(
          (one) =>
            one.address.replace(/\/$/, '') === address.replace(/\/$/, '') ||
            (one.role === role &&
              one.about.product === about.product &&
              one.about.company.id === about.company.id),
        )
        .map((one) => one.name),
      checks: sayChecks(results),
    }
  })
}

/** Of what a pull brings, there is nothing yet: checks of it stay open. */
const NOTHING_PULLED = {
  rates: 0,
  accountNumbers: new Set<string>(),
  dimensions: new Set<string>(),
  places: [],
  entriesOfOthers: 0,
  pulled: false,
} as const

async function answersOf(
  services: Services,
  connection: Connection,
): Promise<{ readonly about: About; readonly settings: Settings }> {
  const about = await ask(services, connection)
  const { name, address, token } = connection
  return { about, settings: await services.bridges.open(name, address, token).settings() }
}

function sayAbout(about: About, settings: Settings): Omit<AskedView, 'twins' | 'checks'> {
  const { product, company, webAddress, resources, takes, role } = about
  const words = (of: readonly (Resource | string)[]): string[] => of.map((one) => one.replaceAll('-', ' '))
  return {
    ...{ product, company, webAddress },
    baseCurrency: settings.baseCurrency,
    timeZone: settings.timeZone,
    offers: words(resources),
    lacks: words(RESOURCES_OF[role].filter((one) => !resources.includes(one))),
    takes: words(takes),
  }
}
