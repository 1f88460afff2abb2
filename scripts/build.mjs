import { buildInterface, nodePackages, postgresPrograms } from './lib/packages.mjs'

// All that a start would make in this folder, for a service that may not write in it.
postgresPrograms()
nodePackages()
buildInterface()
const { built } = await import('./lib/programs.mjs')
built()
process.stdout.write('axion: built; npm start has nothing left to make here\n')
