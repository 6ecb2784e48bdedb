// Changes the core in small ways, one at a time, and asks which changes no unit or reference test notices. Run by hand: npm run mutate.
export default {
  testRunner: 'mocha',
  plugins: ['@stryker-mutator/mocha-runner'],
  mochaOptions: {
    spec: ['tests/unit/*.test.ts', 'tests/reference/*.test.ts'],
    ignore: ['tests/unit/linear-reading.test.ts', 'tests/unit/fuzzed-files.test.ts', 'tests/unit/docs.test.ts'],
  },
  testRunnerNodeArgs: ['--import', 'tsx'],
  mutate: ['src/core/**/*.ts', '!src/core/time/phone-prefixes.ts'],
  ignoreStatic: true,
  coverageAnalysis: 'perTest',
  concurrency: 2,
  incremental: true,
  incrementalFile: 'build/mutation/incremental.json',
  reporters: ['clear-text', 'json'],
  clearTextReporter: { allowColor: false, logTests: false, reportTests: false },
  jsonReporter: { fileName: 'build/mutation/report.json' },
  tempDirName: 'build/mutation/sandbox',
  timeoutMS: 10000,
};
