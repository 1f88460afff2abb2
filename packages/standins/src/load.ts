import { creditedBy } from './billing/documents.ts'
import { charged, type BillingRate, type Invoice } from './billing/charges.ts'
import { Refusal } from './shared/problems.ts'
import type { Store } from './shared/store.ts'

export interface Loadable {
  readonly settings: object
  readonly objects: readonly { readonly resource: string; readonly id: string; readonly value: unknown }[]
}

/** Fills an empty stand-in. Where it charges, as billing does, invoices come without tax and are charged by its own arithmetic. */
export async function load(
  store: Store,
  system: string,
  { settings, objects }: Loadable,
  { charges }: { readonly charges: boolean },
): Promise<void> {
  await store.write(async (writer) => {
    if (objects[0] && (await writer.all(objects[0].resource)).length > 0)
      throw new Refusal(409, 'not-empty', `The ${system} stand-in holds data already.`)
    const rates = new Map(
      objects.filter((o) => o.resource === 'tax-rates').map((o) => [o.id, o.value as BillingRate]),
    )
    for (const { resource, id, value } of objects) {
      await writer.put(
        resource,
        id,
        charges && resource === 'documents'
          ? charged(value as Invoice, rates, await creditedBy(writer, value as Invoice, id))
          : value,
      )
    }
  })
  await store.setSetting('settings', settings)
}
