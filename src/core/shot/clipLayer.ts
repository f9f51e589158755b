import { estimatorOf } from '../need/estimators';
import type { FileRef } from '../need/fileRef';
import { contentOf } from '../depth/definition';
import { estimateBy, estimateLayer } from '../depth/layers/estimate';
import { clipReading, importedLayer } from '../depth/layers/imported';
import type { Layer } from '../document/schema';
import { type ClipDepthSource, type ClipDepthSpec } from '../motion/clipSpec';
import { paramsAt, START } from '../values/moment';

/** From what a layer's depth comes, frame by frame, and how steady it is made; null where it is the same in all. */
function sourceOf(layer: Layer): (Pick<ClipDepthSpec, 'steady' | 'parallax'> & { readonly source: ClipDepthSource }) | null {
  if (layer.kind === estimateLayer.kind) {
    const params = paramsAt(estimateLayer, layer, START);
    const { steady, parallax } = params;
    return { source: { is: 'estimate', ...estimateBy(params, contentOf(estimateLayer, layer.content)) }, steady, parallax };
  }
  if (layer.kind !== importedLayer.kind || !layer.media?.clip) return null;
  const read = clipReading(contentOf(importedLayer, layer.content));
  const { offset, steady } = paramsAt(importedLayer, layer, START);
  return { source: { is: 'map', ref: layer.media, offset, ...read }, steady };
}

/** How the depth of a layer on a clip is found for all its frames; null where the plate is no clip, or the layer the same in all. `every`: estimated every so many frames, as is usual where not given. */
export function clipDepthSpec({ sha256, name, width, height, clip }: FileRef, layer: Layer, every?: number): ClipDepthSpec | null {
  const found = clip && sourceOf(layer);
  if (!clip || !found) return null;
  const { source, ...how } = found;
  return {
    of: { sha256, name, width, height, clip },
    from: 0,
    to: clip.frames - 1,
    source,
    // frames are carried to those between as they are made steady
    every: source.is === 'map' || how.steady === 0 ? 1 : (every ?? estimatorOf(source.quality).every),
    ...how,
    cuts: [],
  };
}
