// npm run demo: installs what is missing, builds, seeds the demo, serves it and prints the address.
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { installPackages, root, run } from './prepare.mjs';

installPackages();
run('npm', ['run', '-s', 'build']);

const free = (port) =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, () => probe.close(() => resolve(true)));
  });
let port = Number(process.env.PORT ?? 3000);
while (!(await free(port))) port++;
console.log(`\nOmbrage with the demo project: http://localhost:${port}\n`);
const server = spawn('npx', ['next', 'start', '-p', String(port)], { cwd: root, stdio: 'inherit' });
server.on('exit', (code) => process.exit(code ?? 0));
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
