import { renameSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'vite'
import { ROOT } from './home.mjs'
import { PROGRAMS } from './programs.mjs'

/** Builds what runs without the browser into a folder: each program and thread one file, with what they share beside; packages of others stay where they are. */
const [at = ''] = process.argv.slice(2)
const making = `${at}-${process.pid}`
await build({
  configFile: false,
  root: ROOT,
  logLevel: 'warn',
  ssr: { noExternal: [/^@axion\//] },
  build: {
    ssr: true,
    target: 'node20',
    minify: false,
    outDir: making,
    rollupOptions: {
      input: Object.fromEntries(Object.entries(PROGRAMS).map(([file, name]) => [name, join(ROOT, file)])),
      output: { entryFileNames: '[name].js', chunkFileNames: 'shared-[hash].js' },
    },
  },
})
// Of two that build the same, one comes first, and the other's is as good.
try {
  renameSync(making, at)
} catch (error) {
  if (!['ENOTEMPTY', 'EEXIST'].includes(error.code)) throw error
  rmSync(making, { recursive: true })
}
