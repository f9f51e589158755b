import { gaussian, gradient, quantile } from '../../raster/filters';
import { newPlane, type Plane } from '../../picture';
import type { Cue } from '../cue';

const REBLUR = 1;
/** Re-blurring a sharp step by σ₀ divides its gradient by R; blur σ = σ₀/√(R²−1) (eq. 6). */
const LARGEST = 4;

/**
 * Blur at edges by the gradient ratio of the picture and its re-blurred copy (Zhuo & Sim 2011), spread over the picture.
 * Sharp things are taken as near; believed as far as sharpness varies between parts of the picture.
 */
export const defocusCue: Cue = {
  kind: 'defocus',
  source: 'Re-blur gradient ratio (Zhuo & Sim 2011)',
  run: ({ width, height, detail }) => {
    const sharp = gradient(detail);
    const soft = gradient(gaussian(detail, REBLUR));
    // edges of soft parts are weak beside those of sharp parts
    const strong = Math.max(0.012, 0.25 * quantile(sharp, 0.85));
    const weight = newPlane(width, height);
    const weighted = newPlane(width, height);
    for (let i = 0; i < sharp.data.length; i++) {
      if (sharp.data[i]! < strong) continue;
      const ratio = sharp.data[i]! / Math.max(1e-4, soft.data[i]!);
      const blur = ratio > 1.02 ? Math.min(LARGEST, REBLUR / Math.sqrt(ratio * ratio - 1)) : LARGEST;
      weight.data[i] = 1;
      weighted.data[i] = blur;
    }
    const sigma = height / 16;
    const spreadWeight = gaussian(weight, sigma);
    const spreadBlur = gaussian(weighted, sigma);
    const blurs: Plane = { width, height, data: spreadBlur.data.map((v, i) => v / Math.max(1e-4, spreadWeight.data[i]!)) };
    const isKnown = (i: number): boolean => spreadWeight.data[i]! > 0.02;
    const known = blurs.data.filter((_, i) => isKnown(i));
    const share = (q: number): number => quantile({ width: known.length, height: 1, data: known }, q);
    const low = share(0.05);
    const high = share(0.95);
    const varies = Math.min(1, Math.max(0, (high / Math.max(0.4, low) - 2.5) / 2));
    const nearness = newPlane(width, height);
    const confidence = newPlane(width, height);
    for (let i = 0; i < nearness.data.length; i++) {
      if (!isKnown(i)) continue;
      nearness.data[i] = Math.min(1, Math.max(0, (high - blurs.data[i]!) / Math.max(1e-3, high - low)));
      confidence.data[i] = 0.2 * varies;
    }
    return { nearness, confidence };
  },
};
