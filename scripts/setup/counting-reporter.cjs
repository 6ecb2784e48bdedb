// Mocha's spec reporter, which also writes how many passed and failed.
const { writeFileSync } = require('node:fs');
const { reporters } = require('mocha');

module.exports = class CountingReporter extends reporters.Spec {
  constructor(runner, options) {
    super(runner, options);
    runner.once('end', () =>
      writeFileSync(
        process.env.TEST_REPORT,
        JSON.stringify({ passes: this.stats.passes, failures: this.stats.failures }),
      ),
    );
  }
};
