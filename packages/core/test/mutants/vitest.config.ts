import { defineConfig } from 'vitest/config'

/** The core's own tests without the score, with properties drawn from one seed: a mutant meets what the one before met. */
export default defineConfig({
  test: {
    include: ['packages/core/src/**/*.test.ts', 'packages/core/test/kept/*.test.ts'],
    environment: 'node',
    isolate: false,
    testTimeout: 60_000,
    setupFiles: ['packages/core/test/mutants/seed.ts'],
  },
})
