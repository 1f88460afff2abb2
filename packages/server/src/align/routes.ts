import type { App, Services } from '../services/services.ts'
import { actRoutes } from './actRoutes.ts'
import { agreedRoutes } from './agreedRoutes.ts'
import { genericRoutes } from './generic/routes.ts'
import { gridRoutes } from './gridRoutes.ts'
import { linkRoutes } from './linkRoutes.ts'

/** The baseline, and the links between it and each system. After either changes, every month is proved anew. */
export function alignRoutes(app: App, services: Services): void {
  gridRoutes(app, services)
  actRoutes(app, services)
  linkRoutes(app, services)
  agreedRoutes(app, services)
  genericRoutes(app, services)
}
