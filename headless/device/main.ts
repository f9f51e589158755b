import { Command, InvalidArgumentError, Option } from 'commander';
import { FORMS, HOLDS, type Form, type Holds } from '../../src/formats/live/packet';
import { simulatedParams } from '../../src/live/simulated/params';
import { serveDevice } from './serve';

// `npm run device`: the simulated depth camera as a device of the network, to be chosen as a live source (docs/live-device.md).

const within =
  (least: number, most: number, whole = false) =>
  (text: string): number => {
    const value = Number(text);
    if (text.trim() === '' || !(value >= least && value <= most) || (whole && !Number.isInteger(value)))
      throw new InvalidArgumentError(`Give ${whole ? 'a whole number' : 'a number'} from ${least} to ${most}.`);
    return value;
  };

interface Given {
  readonly host: string;
  readonly port: number;
  readonly oscPort: number;
  readonly holds: Holds;
  readonly form: Form;
  readonly allow: readonly string[];
  readonly rate: number;
  readonly latency: number;
  readonly lost: number;
  readonly noise: number;
}

const { rate, latency, lost, noise } = simulatedParams;

const program = new Command('device')
  .description('The simulated depth camera over a WebSocket on this machine, its channels as OSC; OSC that comes by UDP is handed on.')
  .option('--host <address>', 'where it listens; others can connect where this is not of this machine alone', '127.0.0.1')
  .option('--port <number>', 'of the WebSocket', within(0, 65535, true), 9210)
  .option('--osc-port <number>', 'of OSC by UDP', within(0, 65535, true), 9211)
  .addOption(new Option('--holds <what>', 'depth in alpha, in the right half, or colour alone').choices(HOLDS).default('alpha'))
  .addOption(new Option('--form <form>', 'how pictures are packed').choices(FORMS).default('raw'))
  .option('--allow <origin...>', 'pages of other machines that may connect, such as https://studio.example', [])
  .option('--rate <number>', 'pictures a second', within(rate.lowest, rate.highest), rate.default)
  .option('--latency <ms>', 'each arrives so late', within(latency.lowest, latency.highest), latency.default)
  .option('--lost <per cent>', 'so many never arrive', within(lost.lowest, lost.highest), lost.default)
  .option('--noise <share>', 'added to nearness', within(noise.lowest, noise.highest), noise.default);

const { host, port, oscPort, holds, form, allow, ...camera } = program.parse().opts<Given>();
try {
  const served = await serveDevice({ host, port, oscPort, holds, form, allow, camera });
  const shown = host === '127.0.0.1' ? 'localhost' : host;
  console.log(`Pictures: ws://${shown}:${served.port}   OSC by UDP: ${shown}:${served.oscPort!}   Ctrl C ends it.`);
} catch (error) {
  const { code, message } = error as NodeJS.ErrnoException;
  console.error(code === 'EADDRINUSE' ? `Port ${port} or ${oscPort} is in use. Give another with --port and --osc-port.` : message);
  process.exitCode = 1;
}
