import { readFileSync, writeFileSync } from 'node:fs';
import { quickPng } from '../src/formats/png/quickPng';
import { SignalHut } from '../src/live/simulated/scene';
import { VIEW } from '../src/live/simulated/view';

// The picture that the live shot of the demo shows before the first one arrives, and what is known of that shot.
// `npx tsx demo/livePlate.ts`

const AT_SECONDS = 4.9;
const { width, height, hfovDegrees, near, far } = VIEW;

const data = new Uint8Array(4 * width * height);
new SignalHut().draw(AT_SECONDS, data);
writeFileSync('public/demo/signalHut.png', new Uint8Array(await (await quickPng({ width, height, data })).arrayBuffer()));

const index = JSON.parse(readFileSync('public/demo/demo.json', 'utf8')) as { shots: Record<string, unknown> };
index.shots.signalHut = {
  title: '06 Signal hut',
  hfovDegrees,
  near,
  far,
  spacing: 'perspective',
  focus: [6.2, 1.5],
  aperture: 0.7,
  width,
  height,
  plate: 'signalHut.png',
  live: { source: 'simulated' },
};
writeFileSync('public/demo/demo.json', `${JSON.stringify(index, null, 2)}\n`);
