import type { World } from './world.ts'

export interface WritingRoute {
  readonly method: string
  /** With names in braces for its parameters. */
  readonly path: string
}

/** Every route of an application that takes more than a question, from what it says of itself. */
export async function writingRoutes({ app }: Pick<World, 'app'>): Promise<WritingRoute[]> {
  const { paths } = (await app.inject('/api/docs/json')).json<{
    paths: Record<string, Record<string, object>>
  }>()
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods)
      .filter((method) => ['post', 'put', 'patch', 'delete'].includes(method))
      .map((method) => ({ method: method.toUpperCase(), path })),
  )
}
