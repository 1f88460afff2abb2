/** @type {import('@stryker-mutator/api/core').PartialStrykerOptions} */
export default {
  testRunner: 'vitest',
  vitest: { configFile: 'packages/core/test/mutants/vitest.config.ts', related: false },
  plugins: ['@stryker-mutator/vitest-runner', './packages/core/test/mutants/faultTexts.mjs'],
  ignorers: ['faultTexts'],
  ignorePatterns: [
    'docs',
    'e2e',
    'bench',
    'scripts',
    'test-results',
    '.axion',
    'packages/{conformance,contract,demo,server,standins,web}',
  ],
  coverageAnalysis: 'perTest',
  incremental: true,
  concurrency: 2,
  timeoutMS: 10000,
  reporters: ['clear-text', 'json'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  tempDirName: '.stryker-tmp',
  cleanTempDir: 'always',
}
