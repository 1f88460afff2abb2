/** The simulated systems. They reach Axion over HTTP alone, and share no code with its core. */
export { startStandins, type StandinsOptions, type Standin, type StandinKind } from './server.ts'
