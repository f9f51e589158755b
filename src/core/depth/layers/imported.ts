import * as z from 'zod';
import { TIME_LIMIT } from '../../limits';
import { mapFrameAt, seriesOf } from '../../motion/clipSpec';
import { FIRST_FRAME, frameAt, type MapNeed } from '../../need/need';
import { choice, frames } from '../../values/params';
import { defineLayer } from '../definition';
import { clipParams, mapParams, placeMap, type Fit } from './mapLayer';

/** How the file of a layer is read, and what was found in it, for the panel. */
export const importedContentSchema = z.object({
  channel: z.string().max(200).nullable().default(null),
  reading: z.enum(['grey', 'distance']).default('grey'),
  found: z
    .object({
      format: z.string(),
      bits: z.number(),
      float: z.boolean(),
      channels: z.array(z.string()),
      low: z.number(),
      high: z.number(),
      holes: z.number(),
      colourful: z.boolean(),
      ends: z.object({ near: z.number().positive(), far: z.number().positive().nullable() }).nullable(),
      agreement: z.number().nullable(),
      because: z.enum(['file', 'estimate', 'custom']),
    })
    .nullable()
    .default(null),
});
export type ImportedContent = z.infer<typeof importedContentSchema>;

/** How the frames of a clip of maps are read: distances between the ends that were found when it came in. */
export const clipReading = ({ channel, reading, found }: ImportedContent): Pick<MapNeed, 'channel' | 'reading' | 'ends'> => ({
  channel,
  reading,
  ...(reading === 'distance' && found?.ends && { ends: { near: found.ends.near, far: found.ends.far ?? Infinity } }),
});

/** A depth map from a file, laid over the plate. */
export const importedLayer = defineLayer({
  kind: 'imported',
  label: 'Imported map',
  help: 'A depth map from a file',
  fromFile: true,
  // maps may have holes; those of a clip are whole where its first one is
  coversAll: ({ fit }, { found }, media) => media?.clip !== undefined && fit !== 'fit' && (found?.holes ?? 0) === 0,
  params: {
    fit: choice<Fit>({
      label: 'Fit',
      default: 'stretch',
      help: 'How a map of another shape meets the plate',
      options: [
        { value: 'stretch', label: 'Stretch' },
        { value: 'fit', label: 'Fit' },
        { value: 'cover', label: 'Cover' },
      ],
    }),
    ...mapParams,
    ...clipParams,
    offset: frames({
      label: 'Begins at',
      min: -96,
      max: 96,
      lowest: -TIME_LIMIT,
      highest: TIME_LIMIT,
      default: 0,
      ofClips: true,
      help: 'Frame of the plate at which a clip of maps begins',
    }),
  },
  content: importedContentSchema,
  needs: ({ content, media, params: { offset, steady }, plate, at }) => {
    if (!media) return [];
    const { channel, reading } = content;
    if (!media.clip) return [{ is: 'map', ref: media, frame: FIRST_FRAME, channel, reading }];
    const read = clipReading(content);
    const here = frameAt(plate, at);
    const frame = plate.clip ? mapFrameAt(media, offset, plate, here) : frameAt(media, { ...at, frame: at.frame - offset });
    const source = { is: 'map', ref: media, offset, ...read } as const;
    return [
      {
        is: 'map',
        ref: media,
        frame,
        ...read,
        ...(plate.clip && steady > 0 && { steady: { series: seriesOf({ of: plate, source, steady }), at: here } }),
      },
    ];
  },
  summary: (p) => (p.turnOver ? 'turned over' : 'white is near'),
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
