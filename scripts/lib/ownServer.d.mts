import type { Databases } from './cluster.d.mts'
/** Null where the environment names none. */
export function databasesNamed(environment: NodeJS.ProcessEnv): Databases | null
/** Lines of an environment: the addresses of the database under each role. */
export function makeDatabase(
  admin: string,
  options: { readonly name: string; readonly renew?: boolean },
): Promise<string>
