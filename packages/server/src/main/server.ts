import { buildApp } from '../app.ts'
import { onEnd, openServices, settingsOrExit } from './services.ts'

const settings = settingsOrExit()
const services = await openServices(settings)
const app = await buildApp(services)
await app.listen({ host: '127.0.0.1', port: settings.AXION_PORT })
onEnd(async () => {
  await app.close()
  await services.queue.stop()
  await services.database.destroy()
})
