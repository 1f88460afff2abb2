import {
  decodeDocument,
  KINDS_OF,
  Page,
  problemOfEntry,
  RESOURCES,
  say,
  type BankLine,
  type JournalEntry,
  type Resource,
  type Settlement,
  type SourceDocument,
  type SystemRole,
} from '@axion/contract'
import { Fault, parseAmount } from '@axion/core'
import type { z } from 'zod'

/** What the threads do, away from everything that waits: what comes from outside is made sense of here. Nothing is kept between two calls. */

export type PageRead = { readonly page: z.infer<typeof Page> } | { readonly problem: string }

/** A page as it was sent, in bytes of UTF-8. */
export function page(bytes: Uint8Array): PageRead {
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch (error) {
    return { problem: error instanceof SyntaxError ? 'it is no JSON' : 'it is not in UTF-8' }
  }
  const read = Page.safeParse(value)
  if (read.success) return { page: read.data }
  const [issue] = read.error.issues
  return { problem: `${issue?.path.join('.')} ${issue?.message}` }
}

export interface ValuesToRead {
  readonly role: SystemRole
  readonly resource: Resource
  readonly booksCurrency: string
  readonly values: readonly unknown[]
}

export type ValueRead = { readonly value: unknown } | { readonly problem: string }

/** Values as the contract shapes them, in exact amounts; a bad one is told with where it is wrong. */
export function values({ role, resource, booksCurrency, values: all }: ValuesToRead): ValueRead[] {
  return all.map((value) => readValue(role, resource, value, booksCurrency))
}

function readValue(role: SystemRole, resource: Resource, value: unknown, booksCurrency: string): ValueRead {
  const read = RESOURCES[resource].safeParse(value)
  if (!read.success) {
    const [issue] = read.error.issues
    return { problem: `${issue?.path.join('.') || 'it'} ${issue?.message ?? ''}` }
  }
  try {
    if (resource === 'documents') {
      const document = read.data as SourceDocument
      if (!KINDS_OF[role].includes(document.kind))
        return { problem: `kind "${document.kind}" is none that a ${role} system has` }
      decodeDocument(document)
    }
    if (resource === 'settlements')
      for (const text of [(read.data as Settlement).amount, (read.data as Settlement).fee])
        parseAmount(text, (read.data as Settlement).currency)
    if (resource === 'bank-lines')
      parseAmount((read.data as BankLine).amount, (read.data as BankLine).currency)
    if (resource === 'journal-entries') {
      const problem = problemOfEntry(read.data as JournalEntry, booksCurrency)
      if (problem !== null) return { problem }
    }
    return { value: read.data }
  } catch (error) {
    if (error instanceof Fault) return { problem: say(error.code, error.facts).says.replace(/\.$/, '') }
    throw error
  }
}
