/** Axion's server: a folder a stage, beside people, audit, jobs and database. Started by main/server.ts and main/worker.ts. */
export { buildApp } from './main/app.ts'
