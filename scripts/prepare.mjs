// Shared by demo and test: installs what is missing.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

process.env.NEXT_TELEMETRY_DISABLED = '1';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Runs a program in the project and throws where it fails. */
export const run = (program, args, options = {}) => execFileSync(program, args, { cwd: root, stdio: 'inherit', ...options });

/** Runs a program and tells whether it went well. */
export const succeeds = (program, args, options = {}) => spawnSync(program, args, { cwd: root, stdio: 'inherit', ...options }).status === 0;

/** Runs a program beside others; tells whether it went well and what it said. */
export const said = (program, args, options = {}) =>
  new Promise((done) => {
    const child = spawn(program, args, { cwd: root, ...options });
    const parts = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => parts.push(part));
    child.once('close', (code) => done({ ok: code === 0, text: Buffer.concat(parts).toString().trim() }));
  });

/** Packages as the lock file says, unless they already are. */
export function installPackages() {
  const marker = join(root, 'node_modules/.installed');
  const wanted = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted) return;
  console.log('Installing packages…');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(marker, wanted);
}

const CHROMIUM_PLACES = ['/usr/bin/chromium', '/usr/bin/chromium-browser'];

/** Debian's Chromium, installed where it is missing. */
export function installChromium() {
  const there = () => CHROMIUM_PLACES.find((p) => existsSync(p) && statSync(p).isFile());
  if (process.env.CHROMIUM || there()) return process.env.CHROMIUM ?? there();
  console.log('Installing Chromium…');
  const sudo = process.getuid?.() === 0 ? [] : ['sudo'];
  const apt = (...args) => {
    const [program, ...rest] = [...sudo, 'apt-get', ...args];
    run(program, rest, { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } });
  };
  apt('update', '-qq');
  apt('install', '-y', '-qq', '--no-install-recommends', 'chromium');
  return there();
}
