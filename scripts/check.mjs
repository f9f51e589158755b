// npm run check: what can be known within a minute. Types, style of what changed, the rules between rooms, and the unit tests of what changed.
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { installPackages, root, said } from './prepare.mjs';

/** Time for unit tests, and what one takes that was never measured. */
const SECONDS_FOR_TESTS = 30;
const UNKNOWN_SECONDS = 1.5;

installPackages();
const git = (...args) => spawnSync('git', args, { cwd: root, encoding: 'utf8' }).stdout.split('\n').filter(Boolean);
// what is not committed, or, where everything is, what the last commit changed
const open = [...git('diff', '--name-only', 'HEAD'), ...git('ls-files', '--others', '--exclude-standard')];
const changed = (open.length > 0 ? open : git('diff', '--name-only', 'HEAD~1')).filter((file) => existsSync(`${root}/${file}`));
const code = changed.filter((file) => /\.(ts|tsx|mjs)$/.test(file));
const related = changed.filter((file) => /^(src|headless|demo|bench)\/.*\.tsx?$/.test(file));

const jest = { env: { ...process.env, NODE_OPTIONS: '--experimental-vm-modules --no-warnings' } };

/** Seconds that each file of tests took in the last whole run; none are known before there was one. */
function timesOfTests() {
  const report = join(root, '.cache/unit.json');
  if (!existsSync(report)) return new Map();
  const { testResults } = JSON.parse(readFileSync(report, 'utf8'));
  return new Map(testResults.map(({ name, startTime, endTime }) => [name.slice(name.lastIndexOf('/src/') + 1), (endTime - startTime) / 1000]));
}

/** Files of tests that what changed may break: those that lie beside it first, of the others as many as there is time for. */
async function testsOf(files) {
  if (files.length === 0) return [];
  const { text } = await said('npx', ['jest', '--listTests', '--findRelatedTests', ...files], jest);
  const folders = new Set(files.map(dirname));
  const known = timesOfTests();
  const all = text
    .split('\n')
    .filter((line) => /\.test\.tsx?$/.test(line))
    .map((path) => path.slice(root.length + 1))
    .map((path) => ({ path, beside: folders.has(dirname(path)), seconds: known.get(path) ?? UNKNOWN_SECONDS }))
    .sort((a, b) => Number(b.beside) - Number(a.beside) || a.seconds - b.seconds);
  let left = SECONDS_FOR_TESTS;
  const taken = all.filter(({ seconds }) => (left -= seconds) >= 0);
  if (taken.length < all.length) console.log(`${all.length - taken.length} of ${all.length} files of tests are left to npm test`);
  return taken.map(({ path }) => path);
}
console.log(`${changed.length} files changed`);
const started = Date.now();
const tests = await testsOf(related);
// two lanes, one for each core: the compiler and what it is asked beside, and the tests
const lanes = [
  [
    ['types', 'npx', ['tsc', '--noEmit']],
    ['types of the core', 'npx', ['tsc', '--noEmit', '-p', 'src/core']],
    ['rules between rooms', 'npm', ['run', '-s', 'rules']],
  ],
  [
    changed.length > 0 && ['layout', 'npx', ['prettier', '--check', '--ignore-unknown', '--log-level', 'warn', ...changed]],
    code.length > 0 && ['lint', 'npx', ['eslint', '--no-warn-ignored', ...code]],
    tests.length > 0 && ['units', 'npx', ['jest', '--maxWorkers=1', '--silent', '--runTestsByPath', ...tests], jest],
  ],
];
let failed = 0;
const lane = async (steps) => {
  for (const [name, program, args, options] of steps.filter(Boolean)) {
    const from = Date.now();
    const { ok, text } = await said(program, args, options);
    if (!ok) failed++;
    console.log(`${ok ? 'ok' : 'FAILED'}: ${name}, ${((Date.now() - from) / 1000).toFixed(0)} s${ok ? '' : `\n${text}`}`);
  }
};
await Promise.all(lanes.map(lane));
console.log(`${failed === 0 ? 'all is well' : `${failed} failed`} after ${((Date.now() - started) / 1000).toFixed(0)} s`);
process.exit(failed === 0 ? 0 : 1);
