import { estimators, USUAL_QUALITY, type Quality } from '../../need/estimators';
import { frameAt } from '../../need/need';
import { choice, toggle } from '../../values/params';
import { defineLayer } from '../definition';
import { clipParams, mapParams, placeMap } from './mapLayer';

/** Depth estimated from the plate itself. */
export const estimateLayer = defineLayer({
  kind: 'estimate',
  beneath: true,
  coversAll: () => true,
  label: 'Estimate',
  help: 'Depth told from the picture alone',
  params: {
    quality: choice<Quality>({
      label: 'Quality',
      default: USUAL_QUALITY,
      options: estimators.map(({ kind, label }) => ({ value: kind, label })),
    }),
    ...mapParams,
    ...clipParams,
    parallax: toggle({
      label: 'Use parallax',
      default: false,
      ofClips: true,
      help: 'Where the camera goes through the scene, what passes faster is nearer. Not for things that go with the camera',
    }),
  },
  needs: ({ params, plate, at }) => [
    {
      is: 'estimate',
      of: plate,
      frame: frameAt(plate, at),
      quality: params.quality,
      ...(plate.clip && { steady: params.steady, parallax: params.parallax }),
    },
  ],
  summary: (p) => p.quality,
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
