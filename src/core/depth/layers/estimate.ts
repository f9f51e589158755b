import * as z from 'zod';
import { estimatorOf, estimators, USUAL_QUALITY, type EstimateBy, type Quality } from '../../need/estimators';
import { frameAt } from '../../need/need';
import { networkUseSchema } from '../../need/networkUse';
import { choice, toggle } from '../../values/params';
import { defineLayer } from '../definition';
import { clipParams, mapParams, placeMap } from './mapLayer';

/** The network of somebody's own that a layer asks, where it does. */
export const estimateContentSchema = z.object({ network: networkUseSchema.nullable().default(null) });
export type EstimateContent = z.infer<typeof estimateContentSchema>;

/** How a layer's depth is told; until somebody has chosen a network, as is usual. */
export function estimateBy({ quality }: { readonly quality: Quality }, { network }: EstimateContent): EstimateBy {
  if (!estimatorOf(quality).own) return { quality };
  return network ? { quality, network } : { quality: USUAL_QUALITY };
}

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
      help: 'Own: a network that you bring',
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
  content: estimateContentSchema,
  needs: ({ params, content, plate, at }) => [
    {
      is: 'estimate',
      of: plate,
      frame: frameAt(plate, at),
      ...estimateBy(params, content),
      ...(plate.clip && { steady: params.steady, parallax: params.parallax }),
    },
  ],
  summary: (params, content) => {
    const { quality, network } = estimateBy(params, content);
    return network?.name ?? quality;
  },
  build: (input) => input.map && { nearness: placeMap(input.map, input, input.params), coverage: null },
});
