import { randomUUID } from 'node:crypto'
import { headLine, headsOf } from '../audit/chains.ts'
import { startDuePulls } from '../connect/schedule.ts'
import { Hands } from '../jobs/hands.ts'
import { freeOwn } from '../jobs/leases.ts'
import { lookWhere } from '../post/restored.ts'
import { perform } from '../runs/perform.ts'
import type { Services } from '../services/services.ts'
import { onEnd, openPlaces, settingsOrExit } from './services.ts'

const LOG_HEADS_MS = 3_600_000

const settings = settingsOrExit()
/** The directory first. */
const places = openPlaces(settings)
const [directory] = places
const workerId = randomUUID()

const say = (error: Error): void => void process.stderr.write(`axion: worker: ${error.message}\n`)
/** Does it in each database by itself: one that does not answer keeps nobody from the others. */
const everywhere = (work: (place: Services) => Promise<unknown>): Promise<unknown> =>
  Promise.all(places.map((place) => work(place).catch(say)))

async function beat(): Promise<void> {
  await directory
    .database('worker_heartbeat')
    .insert({ worker_id: workerId })
    .onConflict('worker_id')
    .merge({ at: directory.database.fn.now() })
}

/** Where the chains of the trail end goes into the log, which the database cannot change. */
async function logHeads({ database }: Services): Promise<void> {
  for (const head of await headsOf(database)) process.stdout.write(`${headLine(head)}\n`)
}

await beat().catch(say)
if (settings.AXION_WORKER !== undefined) {
  const name = settings.AXION_WORKER
  await everywhere(({ database }) => freeOwn(database, name))
}
// Before anything is done: what was brought back from a backup is not what it was.
await everywhere(lookWhere)
const hands = new Hands(settings.AXION_HANDS, say)
for (const place of places) hands.workAt({ database: place.database, handle: (job) => perform(place, job) })
await everywhere(logHeads)
const clocks = [
  setInterval(() => void beat().catch(say), settings.waits.heartbeat * 1000),
  setInterval(() => void everywhere(startDuePulls), settings.waits.schedule * 1000),
  setInterval(() => void everywhere(lookWhere), settings.waits.schedule * 1000),
  setInterval(() => void everywhere(logHeads), LOG_HEADS_MS),
]

onEnd(async () => {
  for (const clock of clocks) clearInterval(clock)
  await hands.stop()
  await directory.reading.close()
  for (const { database } of places) await database.destroy()
})
