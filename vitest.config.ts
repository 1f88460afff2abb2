import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'unit',
          include: ['packages/{core,contract,standins,demo}/{src,test}/**/*.test.ts'],
          environment: 'node',
          isolate: false,
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
          include: ['packages/{server,conformance}/test/**/*.test.ts'],
          environment: 'node',
          // What a file loads and warms up serves the next: each has its own database all the same.
          isolate: false,
          globalSetup: ['packages/server/test/cluster.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
})
