import { defineSource } from '../definition';
import { DEVICE_ADDRESS } from '../device/params';
import { inWorker } from '../inWorker';
import { VIEW } from '../simulated/view';

/** A camera that sends colour and depth over a WebSocket, and channels as OSC beside them. */
export const deviceSource = defineSource({
  kind: 'device',
  label: 'Network device',
  help: 'Colour and depth over a WebSocket on this machine, channels as OSC; npm run device begins one',
  params: {},
  texts: {
    address: { label: 'Address', default: DEVICE_ADDRESS, help: 'Such as ws://localhost:9210; devices on this machine alone can be reached' },
  },
  ends: { near: VIEW.near, far: VIEW.far },
  size: { width: VIEW.width, height: VIEW.height },
  channels: [],
  open: (values, on) => inWorker('device', values, on),
});
