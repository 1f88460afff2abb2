import { z } from 'zod'
import { FieldChange } from './common.ts'
/** Who may do what, and who did. Amounts are decimal strings in `currency`; null is "nothing stated" or "not pulled yet", never nil. */

/** Where somebody is signed in. */
export const SessionsView = z.object({
  sessions: z
    .array(
      z.object({
        id: z.string(),
        began: z.string(),
        ends: z.string(),
        from: z.string().nullable(),
        /** What the browser calls itself. */
        agent: z.string(),
        own: z.boolean(),
      }),
    )
    .readonly(),
})
export type SessionsView = z.infer<typeof SessionsView>

export const MembersView = z.object({
  members: z
    .array(
      z.object({
        name: z.string(),
        email: z.string(),
        role: z.enum(['viewer', 'preparer', 'reviewer', 'administrator']),
      }),
    )
    .readonly(),
})
export type MembersView = z.infer<typeof MembersView>

/** The trail, newest first; `next` continues it. */
export const TrailView = z.object({
  entries: z
    .array(
      z.object({
        id: z.string(),
        at: z.string(),
        person: z.string(),
        from: z.string().nullable(),
        action: z.string(),
        object: z.string(),
        fields: z.array(FieldChange).readonly(),
      }),
    )
    .readonly(),
  people: z.array(z.string()).readonly(),
  actions: z.array(z.string()).readonly(),
  next: z.string().nullable(),
})
export type TrailView = z.infer<typeof TrailView>
