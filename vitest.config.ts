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
          testTimeout: 60_000,
        },
      },
      {
        plugins: [vue()],
        test: {
          name: 'web',
          include: ['packages/web/src/**/*.test.ts'],
          environment: 'jsdom',
          testTimeout: 60_000,
          server: { deps: { inline: ['vuetify'] } },
        },
      },
      {
        test: {
          name: 'integration',
          // A process imports the server once for all of its files; what a test holds is a world of its own.
          isolate: false,
          include: ['packages/{server,conformance}/test/**/*.test.ts'],
          environment: 'node',
          globalSetup: ['packages/server/test/cluster.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
})
