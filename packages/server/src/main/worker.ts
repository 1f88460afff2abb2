import { randomUUID } from 'node:crypto'
import { headLine, headsOf } from '../audit/chains.ts'
import { startDuePulls } from '../connect/schedule.ts'
import { Hands } from '../jobs/hands.ts'
import { perform } from '../runs/perform.ts'
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

const say = (error: Error): void => void process.stderr.write(`axion: worker: ${error.message}\n`)
const hands = new Hands(settings.AXION_HANDS, say)
hands.workAt({ database: services.database, handle: (job) => perform(services, job) })

const clock = setInterval(
  () =>
    void startDuePulls(services).catch((error: unknown) =>
      process.stderr.write(`axion: worker: ${(error as Error).message}\n`),
    ),
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
  await hands.stop()
  await services.reading.close()
  await services.database.destroy()
})
