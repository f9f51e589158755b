import { extreme, gaussian, quantile } from '../../raster/filters';
import { newPlane, type Plane } from '../../picture';
import type { Cue, CueInput } from '../cue';

/** Smallest colour channel in a window, the dark channel of eq. 5. */
export function darkChannel({ red, green, blue }: Pick<CueInput, 'red' | 'green' | 'blue'>, radius: number): Plane {
  const least = newPlane(red.width, red.height);
  for (let i = 0; i < least.data.length; i++) least.data[i] = Math.min(red.data[i]!, green.data[i]!, blue.data[i]!);
  return extreme(least, radius, 'smallest');
}

const correlation = (a: Plane, b: Plane, use: (i: number) => boolean): number => {
  let [n, sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < a.data.length; i += 3) {
    if (!use(i)) continue;
    const [x, y] = [a.data[i]!, b.data[i]!];
    n++;
    sa += x;
    sb += y;
    saa += x * x;
    sbb += y * y;
    sab += x * y;
  }
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return n > 10 && va > 1e-9 && vb > 1e-9 ? (sab - (sa * sb) / n) / Math.sqrt(va * vb) : 0;
};

/**
 * Transmission of hazy air by the dark channel prior (He, Sun, Tang 2009, eq. 11, ω = 0.95). Believed as far as it grows
 * with height on the ground, as real haze does: lamps and white walls also fill the dark channel.
 */
export const hazeCue: Cue = {
  kind: 'haze',
  source: 'Dark channel prior (He, Sun & Tang 2009)',
  run: (input) => {
    const { width, height, layout } = input;
    const dark = gaussian(darkChannel(input, Math.max(1, Math.round(height / 50))), height / 80);
    const airLight = Math.max(0.05, quantile(dark, 0.995));
    const transmission = newPlane(width, height);
    const ramp = newPlane(width, height);
    for (let i = 0; i < dark.data.length; i++) {
      transmission.data[i] = Math.max(0, 1 - (0.95 * dark.data[i]!) / airLight);
      ramp.data[i] = (Math.floor(i / width) - layout.horizon) / height;
    }
    const trust = correlation(transmission, ramp, (i) => ramp.data[i]! > 0.02 && layout.ground.data[i]! > 0.3);
    const confidence = newPlane(width, height);
    confidence.data.fill(0.12 * Math.max(0, trust - 0.2) ** 1.5);
    return { nearness: transmission, confidence };
  },
};
