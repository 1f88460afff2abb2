import { buildApp } from './app.ts'
import { onEnd, openEdge, settingsOrExit } from './services.ts'

const settings = settingsOrExit()
const services = openEdge(settings)
const app = await buildApp(services)
await app.listen({ host: '127.0.0.1', port: settings.AXION_PORT })
onEnd(async () => {
  await app.close()
  await services.reading.close()
  for (const { database, keys } of [services, ...services.beside]) {
    await database.destroy()
    await keys.destroy()
  }
})
