import { randomUUID } from 'node:crypto'
import { headLine, headsOf } from '../audit/chains.ts'
import { startDuePulls } from '../connect/schedule.ts'
import { afterSetBack } from '../queue/queue.ts'
import { endForsaken, perform } from '../runs/perform.ts'
import { onEnd, openServices, settingsOrExit } from './services.ts'

const LOG_HEADS_MS = 3_600_000

const settings = settingsOrExit()
const services = await openServices(settings)
const workerId = randomUUID()

async function beat(): Promise<void> {
  await services
    .database('worker_heartbeat')
    .insert({ worker_id: workerId })
    .onConflict('worker_id')
    .merge({ at: services.database.fn.now() })
}

await beat()
const heart = setInterval(
  () =>
    void beat().catch((error: unknown) =>
      process.stderr.write(`axion: worker: ${(error as Error).message}\n`),
    ),
  settings.waits.heartbeat * 1000,
)

// What a worker left unfinished when it died is queued again: a second slice of one run finds nothing to claim, and does no harm.
const { rows } = (await services.database.raw('select entity_id, run_id from unfinished_runs()')) as {
  rows: { entity_id: string; run_id: string }[]
}
for (const row of rows) await services.queue.send({ entityId: row.entity_id, runId: row.run_id })
await services.queue.work(settings.AXION_HANDS, (job, isLast) => perform(services, job, { isLast }))

const clock = setInterval(
  () =>
    void afterSetBack(services.database)
      .then(() => startDuePulls(services))
      .then(() => endForsaken(services))
      .catch((error: unknown) => process.stderr.write(`axion: worker: ${(error as Error).message}\n`)),
  settings.waits.schedule * 1000,
)

/** Where the chains of the trail end goes into the log, which the database cannot change. */
async function logHeads(): Promise<void> {
  for (const head of await headsOf(services.database)) process.stdout.write(`${headLine(head)}\n`)
}
await logHeads()
const scribe = setInterval(
  () =>
    void logHeads().catch((error: unknown) =>
      process.stderr.write(`axion: worker: ${(error as Error).message}\n`),
    ),
  LOG_HEADS_MS,
)

onEnd(async () => {
  clearInterval(scribe)
  clearInterval(heart)
  clearInterval(clock)
  await services.queue.stop()
  await services.reading.close()
  await services.database.destroy()
})
