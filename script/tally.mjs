/** Adds the counts of the checks, Jest and Playwright; the exit code tells whether everything passed. */
import { existsSync, readFileSync } from 'node:fs';

const [folder, checks, broken, jestExit, playwrightExit] = process.argv.slice(2);
const read = (name) => (existsSync(`${folder}/${name}`) ? JSON.parse(readFileSync(`${folder}/${name}`, 'utf8')) : null);
const jest = read('jest.json');
const playwright = read('playwright.json');

let passed = Number(checks) - Number(broken);
let failed = Number(broken);
passed += jest?.numPassedTests ?? 0;
failed += (jest?.numFailedTests ?? 0) + (jest?.numRuntimeErrorTestSuites ?? 0);
passed += (playwright?.stats.expected ?? 0) + (playwright?.stats.flaky ?? 0);
failed += playwright?.stats.unexpected ?? 0;
// A runner that died without counting anything still failed.
if (Number(jestExit) !== 0 && !(jest && failed > 0)) failed++;
if (Number(playwrightExit) !== 0 && !(playwright?.stats.unexpected > 0)) failed++;

console.log(`${passed} passed, ${failed} failed`);
process.exitCode = failed === 0 ? 0 : 1;
