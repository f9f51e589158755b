import { defineSource } from '../definition';
import { inWorker } from '../inWorker';
import { simulatedParams } from '../simulated/params';
import { VIEW } from '../simulated/view';

/** The depth camera that ships with the application: a small scene that moves, with exact depth in alpha. */
export const simulatedSource = defineSource({
  kind: 'simulated',
  label: 'Simulated camera',
  help: 'A depth camera that is none: a signal hut by the sea, with exact depth',
  params: simulatedParams,
  ends: { near: VIEW.near, far: VIEW.far },
  hfovDegrees: VIEW.hfovDegrees,
  size: { width: VIEW.width, height: VIEW.height },
  channels: ['blink', 'mouth', 'arm', 'swing', 'lamp'],
  open: (values, on) => inWorker('simulated', values, on),
});
