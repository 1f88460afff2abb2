import { startStandins } from './server.ts'

const required = (name: string): string => {
  const value = process.env[name]
  if (!value) throw new Error(`${name} is not set`)
  return value
}

const app = await startStandins({
  port: Number(required('AXION_STANDINS_PORT')),
  token: required('AXION_STANDINS_TOKEN'),
  databases: { ledger: required('AXION_STANDIN_LEDGER_DB'), billing: required('AXION_STANDIN_BILLING_DB') },
})
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, () => void app.close().then(() => process.exit(0)))
