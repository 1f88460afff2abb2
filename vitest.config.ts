import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'unit',
          isolate: false,
          include: ['packages/{core,contract,standins,demo}/{src,test}/**/*.test.ts'],
          environment: 'node',
          testTimeout: 300_000,
        },
      },
      {
        plugins: [vue()],
        test: {
          name: 'web',
          include: ['packages/web/src/**/*.test.ts'],
          environment: 'jsdom',
          testTimeout: 300_000,
          server: { deps: { inline: ['vuetify'] } },
        },
      },
      {
        test: {
          name: 'integration',
          // A process imports the server once for all of its files; what a test holds is a world of its own.
          isolate: false,
          // What a test makes is soon forgotten: room for it costs less than to collect it often.
          execArgv: ['--max-semi-space-size=64'],
          include: ['packages/{server,conformance}/test/**/*.test.ts'],
          environment: 'node',
          globalSetup: ['packages/server/test/cluster.ts'],
          // What hangs is ended; how fast a machine is fails nothing.
          testTimeout: 900_000,
          hookTimeout: 900_000,
        },
      },
    ],
  },
})
