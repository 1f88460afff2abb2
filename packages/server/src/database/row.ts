import type { Knex } from 'knex'
import type { Tables } from 'knex/types/tables.js'

/** A row of a table or view as it is read: what rows.d.ts says of it. */
export type RowOf<T extends keyof Tables> = Knex.ResolveTableType<Tables[T]>

/** Some of its columns. Whatever renames one breaks the build here. */
export type Columns<T extends keyof Tables, C extends keyof RowOf<T>> = Readonly<Pick<RowOf<T>, C>>
