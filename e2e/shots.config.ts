import { defineConfig } from '@playwright/test'
import tests from './playwright.config.ts'

/** The pictures of the README: one walk through the demo month. */
export default defineConfig({
  ...tests,
  reporter: 'list',
  projects: [{ name: 'shots', testMatch: 'shots.ts' }],
})
