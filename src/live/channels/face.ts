import type { Raster } from '../../core/picture';
import type { Rgb8 } from '../../core/estimate/face/tensors';
import { FaceWatch } from '../../engine/pool/face';
import { defineChannels } from './definition';

/** Pictures are looked at so wide at the most, px. */
const WIDTH = 320;

type Points = readonly { readonly x: number; readonly y: number }[];

const between = (points: Points, a: number, b: number, aspect: number): number =>
  Math.hypot(points[a]!.x - points[b]!.x, (points[a]!.y - points[b]!.y) / aspect);

/** An eye that is this open, of its width, is open; so much is shut. A mouth that is as high as half of its width is open. */
const EYE = { shut: 0.12, open: 0.28 };
const MOUTH_OPEN = 0.6;

const share = (v: number): number => Math.min(1, Math.max(0, v));

/**
 * How far the eyes are shut and the mouth is open, 0..1, from the 68 points of a face (Sagonas et al. 2013): heights of the eyes and of the
 * inner lips as shares of their widths (Soukupová & Čech 2016). `aspect`: the picture's width by its height.
 */
export function opennessOf(points: Points, aspect: number): { readonly 'eyes shut': number; readonly 'mouth open': number } {
  const eye = (outer: number, a: number, b: number, inner: number, c: number, d: number): number =>
    (between(points, a, d, aspect) + between(points, b, c, aspect)) / Math.max(1e-6, 2 * between(points, outer, inner, aspect));
  const open = (eye(36, 37, 38, 39, 40, 41) + eye(42, 43, 44, 45, 46, 47)) / 2;
  const mouth = between(points, 62, 66, aspect) / Math.max(1e-6, between(points, 60, 64, aspect));
  return { 'eyes shut': share((EYE.open - open) / (EYE.open - EYE.shut)), 'mouth open': share(mouth / MOUTH_OPEN) };
}

/** A picture's colours, smaller by a whole step. */
function small({ width, height, data }: Raster): Rgb8 {
  const step = Math.max(1, Math.ceil(width / WIDTH));
  const [w, h] = [Math.floor(width / step), Math.floor(height / step)];
  const out = new Uint8Array(3 * w * h);
  for (let y = 0, o = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const p = 4 * (y * step * width + x * step);
      for (let c = 0; c < 3; c++) out[o++] = data[p + c]!;
    }
  return { width: w, height: h, rgb: out };
}

/** How far the eyes of the largest face are shut, and its mouth is open: as often as the machine finds it. */
export const faceChannels = defineChannels({
  kind: 'face',
  label: 'A face',
  help: 'How far its eyes are shut and its mouth is open, as often as the machine finds one',
  open({ heard, failed }) {
    const watch = new FaceWatch();
    let looks = false;
    return {
      frame: ({ raster }) => {
        if (looks) return;
        looks = true;
        watch
          .look(small(raster))
          .then((face) => heard({ face: Number(face !== null), ...(face && opennessOf(face.points, raster.width / raster.height)) }))
          .catch(() => failed('Faces cannot be found: their model did not load.', 'Open the page once with the network, then switch it on again.'))
          .finally(() => (looks = false));
      },
      close: () => watch.close(),
    };
  },
});
