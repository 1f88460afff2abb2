import type { PostView, Remedy, RemedyPreview, TieOutView } from '@axion/contract'

/** What works the demo's months: Axion's own API, and the desks of the simulated systems. */
export interface Hands {
  /** A call that has to succeed. */
  call<T>(method: 'GET' | 'POST', path: string, body?: object): Promise<T>
  /** Waits until a run has ended, and refuses to go on where it failed. */
  ended(entity: string, run: string): Promise<void>
  desk(system: string, action: string, fields: Readonly<Record<string, string>>): Promise<void>
  /** Says what is being done. */
  say(line: string): void
}

/** An entity's month, worked as a preparer would work it. */
function month({ call, ended }: Hands, entity: string, period: string) {
  const at = `/api/entities/${entity}/months/${period}`
  const run = async (path: string, body: object = {}): Promise<void> =>
    ended(entity, (await call<{ run: string }>('POST', at + path, body)).run)
  return {
    pull: () => run('/pulls', { systemIds: null }),
    accept: () => call('POST', `${at}/links/clear`, { kinds: ['agencies', 'rates'] }),
    rehearse: () => run('/post/rehearsal'),
    post: (units: readonly string[]) => run('/post/runs', { units }),
    rehearsed: async () =>
      (await call<PostView>('GET', `${at}/post?state=rehearsed&size=200`)).rows.map((row) => row),
    tieOut: () => call<TieOutView>('GET', `${at}/tie-out`),
    mend: async (remedy: Remedy) => {
      const { revision } = await call<RemedyPreview>('POST', `${at}/mend/preview`, { remedy })
      await run('/mend', { remedy, revision })
    },
  }
}

/**
 * Months in different states, each really worked: Saltmarsh's August from the first pull to the last proof, and closed in its ledger;
 * Quillon's September in the middle, posted up to the twentieth. Larkspur's September waits to be begun.
 */
export async function workMonths(hands: Hands): Promise<void> {
  hands.say('Saltmarsh closes its August')
  const august = month(hands, 'saltmarsh', '2026-08')
  await august.pull()
  await august.accept()
  await august.rehearse()
  await august.post((await august.rehearsed()).map((row) => row.unit))
  await august.pull()
  for (const cause of (await august.tieOut()).causes) {
    const [remedy] = cause.remedies
    if (!remedy) throw new Error(`nothing mends ${cause.key} of Saltmarsh's August`)
    await august.mend(remedy)
  }
  const { unproved, documents } = await august.tieOut()
  if (documents > 0) throw new Error(`Saltmarsh's August is not proved: ${unproved}`)
  await hands.desk('saltmarsh-ledger', 'settings', {
    keepsDocumentNumbers: 'yes',
    lockedThrough: '2026-08-31',
    taxComputation: 'by-rate',
  })

  hands.say('Quillon is in the middle of its September')
  const september = month(hands, 'quillon', '2026-09')
  await september.pull()
  await september.accept()
  await september.rehearse()
  await september.post(
    (await september.rehearsed()).filter((row) => row.date <= '2026-09-20').map((row) => row.unit),
  )
  await september.pull()
}
