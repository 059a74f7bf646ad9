// Prints "passed failed" of a test report: Vitest's JSON or Playwright's. A test file that could
// not even be loaded counts as a failure, and so does a test that had to be tried again.
import { readFileSync } from 'node:fs';

const report = JSON.parse(readFileSync(process.argv[2], 'utf8'));

function count() {
  if (report.testResults) {
    const unloadable = report.testResults.filter((file) => file.status === 'failed' && file.assertionResults.length === 0).length;
    return [report.numPassedTests, report.numFailedTests + unloadable];
  }
  const { expected, unexpected, flaky, skipped } = report.stats;
  // In a row of tests that build on each other, those behind a failure do not run: they failed too.
  return [expected, unexpected + flaky + skipped + report.errors.length];
}

console.log(count().join(' '));
