import { settingsOrExit } from './services.ts'

/** Ends with status 2 and one line for each setting that is wrong; starts nothing. */
settingsOrExit()
