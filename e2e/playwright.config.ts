import { defineConfig } from '@playwright/test'

/**
 * Drives the installation that AXION_E2E_URL names, in Debian's Chromium: the month first,
 * then every view of what it left and the rules of another entity, two at a time; then what Align makes of it, with a business that is founded beside it; and an installation of one's own.
 */
export default defineConfig({
  testDir: '.',
  workers: 2,
  timeout: 1_200_000,
  expect: { timeout: 120_000 },
  reporter: [['list'], ['json', { outputFile: process.env['AXION_E2E_REPORT'] ?? 'test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: {
    baseURL: process.env['AXION_E2E_URL'] ?? 'http://127.0.0.1:4100',
    viewport: { width: 1280, height: 800 },
    actionTimeout: 240_000,
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  projects: [
    { name: 'month', testMatch: 'month.spec.ts' },
    { name: 'views', testMatch: 'views.spec.ts', fullyParallel: true, dependencies: ['month'] },
    { name: 'align', testMatch: 'align.spec.ts', dependencies: ['views'] },
    { name: 'rules', testMatch: 'rules.spec.ts', dependencies: ['month'] },
    { name: 'own', testMatch: 'own.spec.ts', dependencies: ['views', 'rules'] },
    { name: 'second', testMatch: 'second.spec.ts', dependencies: ['views', 'rules'] },
  ],
})
