import { calibrationOf } from '../../core/document/calibrationOf';
import { finishedPicture, resolved, seenDistance, seenNearness } from '../../core/shot/chain';
import type { FormatDefinition } from '../definition';
import { jpegWithDepth } from '../jpeg/depthPhoto';
import { exr } from '../exr/exr';
import { jpeg } from '../jpeg/jpeg';
import { pfm } from '../pfm/pfm';
import { encodeDepthPng, png } from '../png/png';
import { tiff } from '../tiff/tiff';
import { defineOutput, type OutputDefinition } from './definition';

/** Distances in metres in a format that is written as such. */
const metres = (format: FormatDefinition, label: string, note: string): OutputDefinition =>
  defineOutput({
    kind: `depth-${format.kind}`,
    of: 'depth',
    label,
    note,
    extension: format.extensions[0]!,
    mime: format.mime,
    params: {},
    write: async ({ request, inputs }) => format.writePlane!(await seenDistance(request, inputs)),
  });

const greys = defineOutput({
  kind: 'depth-png16',
  of: 'depth',
  label: 'PNG 16',
  note: 'Nearness in 65 536 greys: white is the near end, black the far end.',
  extension: 'png',
  mime: png.mime,
  params: {},
  write: async ({ request, inputs }) => encodeDepthPng(await seenNearness(request, inputs)),
});

const carried = defineOutput({
  kind: 'depth-jpeg',
  of: 'depth',
  label: 'JPEG',
  note: 'The finished picture, with its depth inside (XMP): 1/distance from the near to the far end.',
  extension: 'jpg',
  mime: jpeg.mime,
  params: {},
  async write({ request, inputs, encoders }) {
    const picture = await encoders.jpeg((await finishedPicture(request, inputs)).value, 0.92);
    return jpegWithDepth(picture, await seenDistance(request, inputs), calibrationOf(resolved(request).settings.calibration));
  },
});

export const depths: readonly OutputDefinition[] = [
  greys,
  metres(pfm, 'PFM', 'Distance in metres as floats; infinity is kept.'),
  metres(tiff, 'TIFF', 'Distance in metres as 32-bit floats.'),
  metres(exr, 'EXR', 'Distance in metres as 32-bit floats, in the channel Z.'),
  carried,
];
