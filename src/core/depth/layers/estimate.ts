import { choice, toggle } from '../../values/params';
import { defineLayer } from '../definition';
import { placeMap } from './mapLayer';

/** Depth estimated from the plate itself. */
export const estimateLayer = defineLayer({
  kind: 'estimate',
  label: 'Estimate',
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
    turnOver: toggle({ label: 'Turn over', default: false, help: 'Swap near and far' }),
  },
  summary: (p) => p.quality,
  build: (input) => input.map && placeMap(input.map, input, input.params.turnOver),
});
