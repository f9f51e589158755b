// npm test: installs what is missing, then every check and every test; the last line sums them all.
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { installChromium, installPackages, root, said, succeeds } from './prepare.mjs';

installPackages();
const chromium = installChromium();
let passed = 0;
let failed = 0;
const count = (name, ok) => {
  console.log(`${ok ? 'ok' : 'FAILED'}: ${name}`);
  if (ok) passed++;
  else failed++;
};
const step = (name, args) => {
  console.log(`\n— ${name}`);
  count(name, succeeds('npm', ['run', '-s', ...args]));
};
const report = (file) => (existsSync(join(root, file)) ? JSON.parse(readFileSync(join(root, file), 'utf8')) : null);

/** The outlines of the pages on which tests in the browser failed, as Playwright kept them. */
function shownAtFailure() {
  const folder = join(root, 'test-results');
  return readdirSync(folder, { recursive: true })
    .filter((name) => name.endsWith('error-context.md'))
    .map((name) => `${name}\n${readFileSync(join(folder, name), 'utf8').slice(0, 6000)}`);
}

step('kernels', ['build:kernels']);
// each of these keeps one core busy
const checks = { 'type check': ['typecheck'], lint: ['lint'], 'dependency rules': ['rules'], 'docs as defined': ['build:docs', '--', '--check'] };
console.log(`\n— ${Object.keys(checks).join(', ')}`);
const ends = Object.entries(checks).map(async ([name, args]) => ({ name, ...(await said('npm', ['run', '-s', ...args])) }));
for (const { name, ok, text } of await Promise.all(ends)) {
  if (text) console.log(text);
  count(name, ok);
}

console.log('\n— unit tests');
rmSync(join(root, 'test-results'), { recursive: true, force: true });
mkdirSync(join(root, '.cache'), { recursive: true });
const units = succeeds('npm', ['run', '-s', 'unit', '--', '--json', '--outputFile=.cache/unit.json'], {
  env: { ...process.env, NODE_OPTIONS: '--experimental-vm-modules --no-warnings' },
});
const unitReport = report('.cache/unit.json');
passed += unitReport?.numPassedTests ?? 0;
failed += unitReport ? unitReport.numFailedTests + unitReport.numRuntimeErrorTestSuites : 0;
if (!units && !(unitReport?.numFailedTests || unitReport?.numRuntimeErrorTestSuites)) failed++;

step('build', ['build']);
if (failed === 0 || process.env.ALL) {
  console.log('\n— tests in the browser');
  const pages = succeeds('npm', ['run', '-s', 'e2e'], { env: { ...process.env, CHROMIUM: chromium, EVERYTHING: '1' } });
  const pageReport = report('test-results/report.json');
  passed += pageReport?.stats.expected ?? 0;
  const bad = (pageReport?.stats.unexpected ?? 0) + (pageReport?.stats.flaky ?? 0);
  failed += bad;
  // what the page showed when a test failed: a machine that is thrown away keeps no pictures
  for (const seen of pages ? [] : shownAtFailure()) console.log(`\n${seen}`);
  if (!pages && bad === 0) failed++;
}
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
