import type { App, Services } from '../services/services.ts'
import { evidenceRoutes } from './evidenceRoutes.ts'
import { keptRoutes } from './keptRoutes.ts'
import { listRoutes } from './listRoutes.ts'
import { mendRoutes } from './mendRoutes.ts'

/** The close sheet, the tie-out, the evidence behind any amount, and mending a cause. */
export function tieOutRoutes(app: App, services: Services): void {
  keptRoutes(app, services)
  evidenceRoutes(app, services)
  mendRoutes(app, services)
  listRoutes(app, services)
}
