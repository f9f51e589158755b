import { choice } from '../../values/params';
import { defineLayer } from '../definition';
import { mapParams, placeMap } from './mapLayer';

/** Depth estimated from the plate itself. */
export const estimateLayer = defineLayer({
  kind: 'estimate',
  label: 'Estimate',
  help: 'Depth told from the picture alone',
  source: 'estimate',
  params: {
    quality: choice({
      label: 'Quality',
      default: 'fine',
      options: [
        { value: 'draft', label: 'Draft' },
        { value: 'fine', label: 'Fine' },
      ],
    }),
    ...mapParams,
  },
  summary: (p) => p.quality,
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
