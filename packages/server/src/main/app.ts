import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { bridgeDocument, ProblemView } from '@axion/contract'
import cookie from '@fastify/cookie'
import helmet from '@fastify/helmet'
import rateLimit from '@fastify/rate-limit'
import staticFiles from '@fastify/static'
import swagger from '@fastify/swagger'
import swaggerUi from '@fastify/swagger-ui'
import Fastify, { type FastifyInstance, type FastifyRequest } from 'fastify'
import { jsonSchemaTransform, serializerCompiler, type ZodTypeProvider } from 'fastify-type-provider-zod'
import { recogniseSessions } from '../access/sessions.ts'
import { attachedRoutes } from '../align/attached/routes.ts'
import { copyRoutes } from '../align/copied/routes.ts'
import { certificateRoutes } from '../align/certificates/routes.ts'
import { newRateRoutes } from '../align/newRate/routes.ts'
import { openingRoutes } from '../align/opening/routes.ts'
import { registrationRoutes } from '../align/registrations/routes.ts'
import { alignRoutes } from '../align/routes.ts'
import { ruleRoutes } from '../align/rules/routes.ts'
import { draftRoutes } from '../align/draft/routes.ts'
import { agreedObjectRoutes } from '../align/baseline/routes.ts'
import { saleRoutes } from '../align/sale/routes.ts'
import { trailRoutes } from '../audit/routes.ts'
import { historyRoutes } from '../connect/history.ts'
import { invitationRoutes } from '../connect/invitations.ts'
import { connectRoutes } from '../connect/routes.ts'
import { answerWithProblems } from '../faults/problem.ts'
import { requireText } from '../faults/text.ts'
import { validateBounded } from '../faults/validate.ts'
import { fileRoutes } from '../files/routes.ts'
import { runRoutes } from '../jobs/routes.ts'
import { accountRoutes } from '../people/account.ts'
import { firstRoutes } from '../people/first.ts'
import { peopleRoutes } from '../people/routes.ts'
import { postRoutes } from '../post/routes.ts'
import { entityRoutes } from '../practice/entityRoutes.ts'
import { practiceRoutes } from '../practice/routes.ts'
import type { EdgeServices } from '../services/services.ts'
import { tieOutRoutes } from '../tieout/routes.ts'
import { healthRoutes, limitPressure } from './health.ts'
import { metricRoutes } from './metrics.ts'

/** What a request may bring where its route says nothing else. */
const MOST_BYTES = 256 * 1024

/** In so many milliseconds a request has to be here, headers and body. */
const LONGEST_REQUEST_MS = 300_000

/** Puts the application together: the edge first, then a folder of routes for each stage, then the built interface. */
export async function buildApp(services: EdgeServices): Promise<FastifyInstance> {
  const app = Fastify({
    logger:
      services.settings.AXION_LOG === 'silent'
        ? false
        : {
            level: services.settings.AXION_LOG,
            redact: ['req.headers.authorization', 'req.headers.cookie'],
            serializers: { req: logged },
            stream: process.stdout,
          },
    forceCloseConnections: true,
    // Who is behind a proxy, and whether by TLS, is believed of these alone.
    trustProxy: services.settings.AXION_PROXIES.length > 0 ? services.settings.AXION_PROXIES : false,
    bodyLimit: MOST_BYTES,
    requestTimeout: LONGEST_REQUEST_MS,
    routerOptions: { maxParamLength: 300 },
  }).withTypeProvider<ZodTypeProvider>()
  app.setValidatorCompiler(validateBounded)
  app.setSerializerCompiler(serializerCompiler)
  answerWithProblems(app)
  await app.register(helmet, {
    contentSecurityPolicy: {
      directives: {
        'script-src': ["'self'"],
        'style-src': ["'self'", "'unsafe-inline'"],
        'img-src': ["'self'", 'data:'],
        'upgrade-insecure-requests': null,
      },
    },
    hsts: false,
  })
  await app.register(cookie)
  await app.register(rateLimit, { global: false })
  await limitPressure(app, { maxEventLoopDelay: services.settings.AXION_LAG * 1000 })
  await describeItself(app)
  recogniseSessions(app, services.database)
  requireText(app)
  // What the API answers is somebody's books: no cache keeps it.
  app.addHook('onSend', async (request, reply) => {
    if (request.url.startsWith('/api/')) reply.header('cache-control', 'no-store')
  })
  await app.register(async (routes) => {
    const typed = routes.withTypeProvider<ZodTypeProvider>()
    for (const stage of [
      healthRoutes,
      accountRoutes,
      firstRoutes,
      peopleRoutes,
      entityRoutes,
      practiceRoutes,
      trailRoutes,
      runRoutes,
      connectRoutes,
      historyRoutes,
      invitationRoutes,
      fileRoutes,
      alignRoutes,
      ruleRoutes,
      newRateRoutes,
      openingRoutes,
      registrationRoutes,
      saleRoutes,
      draftRoutes,
      agreedObjectRoutes,
      copyRoutes,
      certificateRoutes,
      attachedRoutes,
      postRoutes,
      tieOutRoutes,
    ])
      stage(typed, services)
  })
  metricRoutes(app, services)
  await serveInterface(app, services.settings.AXION_WEB)
  return app
}

/** What the log says of a request. Whoever knows the address of a link may follow it: the log does not. */
function logged({
  method,
  url,
  ip,
}: FastifyRequest): Readonly<Record<'method' | 'url' | 'remoteAddress', string>> {
  return { method, url: url.replace(/(\/(?:first|invitations?)\/)[^/?]+/, '$1…'), remoteAddress: ip }
}

/** Its own description, and that of a bridge. */
async function describeItself(app: FastifyInstance): Promise<void> {
  await app.register(swagger, {
    openapi: {
      info: {
        title: 'Axion',
        version: '1',
        description:
          'What the screens do, scripts can do. Sign in with POST /api/session; send X-Axion-Request with every change.',
      },
    },
    // What is refused is refused alike everywhere; pages and their parts are no part of the API, and have no schema.
    transform: (route) =>
      jsonSchemaTransform({
        ...route,
        schema: route.url.startsWith('/api/')
          ? { ...route.schema, response: { ...(route.schema.response as object), default: ProblemView } }
          : { hide: true },
      }),
  })
  await app.register(swaggerUi, { routePrefix: '/api/docs' })
  app.get('/api/docs/bridge.json', { schema: { hide: true } }, () => bridgeDocument())
}

/** Parts of the built pages, each named by the digest of what it holds: what has another content has another name. */
const PARTS = '/assets/'

/** The built pages; any address that is not the API's, and no part of them, is the interface's own. */
async function serveInterface(app: FastifyInstance, folder: string | undefined): Promise<void> {
  if (!folder || !existsSync(folder)) return
  const parts = join(folder, PARTS)
  await app.register(staticFiles, {
    root: folder,
    wildcard: false,
    index: false,
    setHeaders: (reply, path) => {
      if (path.startsWith(parts)) void reply.header('cache-control', 'public, max-age=31536000, immutable')
    },
  })
  app.get('/*', (request, reply) =>
    ['/api/', PARTS].some((own) => request.url.startsWith(own))
      ? reply.callNotFound()
      : reply.sendFile('index.html'),
  )
}
