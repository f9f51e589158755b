import type { Quality } from '../../estimate/key';
import { choice } from '../../values/params';
import { defineLayer } from '../definition';
import { mapParams, placeMap } from './mapLayer';

/** Depth estimated from the plate itself. */
export const estimateLayer = defineLayer({
  kind: 'estimate',
  beneath: true,
  label: 'Estimate',
  help: 'Depth told from the picture alone',
  params: {
    quality: choice<Quality>({
      label: 'Quality',
      default: 'fine',
      options: [
        { value: 'draft', label: 'Draft' },
        { value: 'fine', label: 'Fine' },
      ],
    }),
    ...mapParams,
  },
  // a still is the same at every moment
  needs: ({ params, plate }) => [{ is: 'estimate', of: plate, frame: 0, quality: params.quality }],
  summary: (p) => p.quality,
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
