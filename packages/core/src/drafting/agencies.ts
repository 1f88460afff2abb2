import type { Given } from './given.ts'
import { holdersOf, meet, type Met, type Thing } from './meet.ts'
import { Codes, namedIn } from './naming.ts'

type AgencyThing = Thing & { readonly account: string | null }

/** Who is owed tax, as the systems name them. */
export interface DraftedAgency {
  readonly code: string
  readonly name: string
  readonly held: readonly { readonly holderId: string; readonly id: string; readonly name: string }[]
  readonly doubts: Met<Thing>['doubts']
  /** The ledger's own liability account for it; null where it names none. */
  readonly account: string | null
}

export interface Agencies {
  readonly all: readonly DraftedAgency[]
  /** The drafted agency that a system's stands for. */
  of(holderId: string, id: string): DraftedAgency | undefined
}

export function draftAgencies({ holders, linked, known }: Given): Agencies {
  const met = meet(
    holders.map((holder) =>
      holder.agencies.map((agency): AgencyThing => ({
        holderId: holder.id,
        id: agency.id,
        code: agency.code,
        name: agency.name,
        components: null,
        jurisdictions: null,
        account: holder.isLedger ? agency.account : null,
      })),
    ),
  )
  const codes = new Codes()
  const all = met.map(({ members, doubts }): DraftedAgency => {
    // Whoever numbers its agencies has looked at their names.
    const name = (members.find(({ code }) => code !== null && code !== '') ?? members[0])?.name.trim() ?? ''
    const agreed = [
      ...members.map(({ holderId, id }) => linked('agency', holderId, id)),
      ...members.map((member) => namedIn(known.agencies, member.name)),
    ]
    return {
      code: codes.give(name, ...agreed, ...members.map(({ code }) => code)),
      name,
      held: members.map(({ holderId, id, name: held }) => ({ holderId, id, name: held })),
      doubts,
      account: members.find(({ account }) => account !== null)?.account ?? null,
    }
  })
  const by = new Map(
    all.flatMap((agency) => agency.held.map((h) => [`${h.holderId}/${h.id}`, agency] as const)),
  )
  return { all, of: (holderId, id) => by.get(`${holderId}/${id}`) }
}

export function isHeldBySeveral({ held }: DraftedAgency): boolean {
  return holdersOf(held).length > 1
}
