import * as z from 'zod';
import { choice } from '../../values/params';
import { defineLayer } from '../definition';
import { mapParams, placeMap, type Fit } from './mapLayer';

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

/** A depth map from a file, laid over the plate. */
export const importedLayer = defineLayer({
  kind: 'imported',
  label: 'Imported map',
  help: 'A depth map from a file',
  fromFile: true,
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
  },
  content: importedContentSchema,
  needs: ({ content: { channel, reading }, media }) => (media ? [{ is: 'map', ref: media, frame: 0, channel, reading }] : []),
  summary: (p) => (p.turnOver ? 'turned over' : 'white is near'),
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
