/**
 * Prints the ten slowest tests, the time the run took, and the counts of the checks, Jest and Playwright in its last line.
 * The exit code is 0 if everything passed.
 */
import { existsSync, readFileSync } from 'node:fs';
import { relative } from 'node:path';

const [folder, checks, broken, jestExit, playwrightExit, seconds, cpuBefore, cpuAfter] = process.argv.slice(2);
const read = (name) => (existsSync(`${folder}/${name}`) ? JSON.parse(readFileSync(`${folder}/${name}`, 'utf8')) : null);
const jest = read('jest.json');
const playwright = ['playwright.json', 'playwright-server.json'].map(read).filter((one) => one !== null);
/** Tests of all runs of Playwright that ended in a way. */
const ended = (way) => playwright.reduce((sum, { stats }) => sum + stats[way], 0);

let passed = Number(checks) - Number(broken);
let failed = Number(broken);
passed += jest?.numPassedTests ?? 0;
failed += (jest?.numFailedTests ?? 0) + (jest?.numRuntimeErrorTestSuites ?? 0);
passed += ended('expected') + ended('flaky');
failed += ended('unexpected');
// A runner that died without counting anything still failed.
if (Number(jestExit) !== 0 && !(jest && failed > 0)) failed++;
if (Number(playwrightExit) !== 0 && ended('unexpected') === 0) failed++;

/** Tests of a Playwright suite and of those in it. */
const testsIn = ({ specs = [], suites = [] }) => [
  ...specs.flatMap(({ file, title, tests }) =>
    tests.map(({ results }) => ({
      name: `${file}: ${title}`,
      seconds: results.reduce((sum, { duration }) => sum + duration, 0) / 1000,
    })),
  ),
  ...suites.flatMap(testsIn),
];
const tests = [
  ...(jest?.testResults ?? []).flatMap(({ name, assertionResults }) =>
    assertionResults.map(({ fullName, duration }) => ({
      name: `${relative(process.cwd(), name)}: ${fullName}`,
      seconds: (duration ?? 0) / 1000,
    })),
  ),
  ...playwright.flatMap(({ suites }) => suites).flatMap(testsIn),
];
console.log('== ten slowest tests');
for (const { name, seconds } of tests.sort((a, b) => b.seconds - a.seconds).slice(0, 10)) {
  console.log(`${seconds.toFixed(1).padStart(6)} s  ${name}`);
}
const minutes = (Number(seconds) / 60).toFixed(1);
const coreMinutes = cpuBefore && cpuAfter ? `, ${((cpuAfter - cpuBefore) / 60e6).toFixed(1)} core-minutes` : '';
console.log(`${minutes} minutes${coreMinutes}, SEED=${process.env.SEED}`);
console.log(`${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 ? 0 : 1;
