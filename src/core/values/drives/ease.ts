import * as z from 'zod';
import { between, eased, easings } from '../easing';
import { storedNumber } from '../endless';
import { defineDrive, driveFrames } from './definition';

const schema = z.object({
  kind: z.literal('ease'),
  from: storedNumber,
  to: storedNumber,
  start: z.number(),
  end: z.number(),
  easing: z.enum(easings).default('ease'),
});

/** One eased ramp from a value to another over a range of frames. */
export const easeDrive = defineDrive<z.infer<typeof schema>>({
  kind: 'ease',
  label: 'Ease',
  help: 'One way from a value to another.',
  schema,
  begin: ({ set, swing, length }) => ({ kind: 'ease', from: set, to: set + swing, start: 0, end: Math.max(1, length - 1), easing: 'ease' }),
  value: (drive, _, frame) => between(drive.from, drive.to, eased(drive.easing, (frame - drive.start) / Math.max(1e-9, drive.end - drive.start))),
  pins: (drive) => [drive.start, drive.end],
  map: (drive, change) => ({ ...drive, from: change(drive.from), to: change(drive.to) }),
  record: (drive, value, frame) => (frame * 2 < drive.start + drive.end ? { ...drive, from: value } : { ...drive, to: value }),
  fields: (param) => [
    { param: { ...param, label: 'From', names: {} }, get: (d) => d.from, put: (d, from) => ({ ...d, from }) },
    { param: { ...param, label: 'To', names: {} }, get: (d) => d.to, put: (d, to) => ({ ...d, to }) },
    { param: driveFrames('Begins at'), get: (d) => d.start, put: (d, start) => ({ ...d, start, end: Math.max(start + 1, d.end) }) },
    { param: driveFrames('Ends at', 95), get: (d) => d.end, put: (d, end) => ({ ...d, end, start: Math.min(end - 1, d.start) }) },
  ],
});
