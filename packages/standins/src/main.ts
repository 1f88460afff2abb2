import { startStandins, type Standin } from './server.ts'

const required = (name: string): string => {
  const value = process.env[name]
  if (!value) throw new Error(`${name} is not set`)
  return value
}

const app = await startStandins({
  port: Number(required('AXION_STANDINS_PORT')),
  token: required('AXION_STANDINS_TOKEN'),
  systems: JSON.parse(required('AXION_STANDINS_SYSTEMS')) as Standin[],
})
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.once(signal, () => void app.close().then(() => process.exit(0)))
