import sharp from 'sharp';
import { edgeDistance } from '../src/core/depth/edges';
import { bandShare } from '../src/core/depth/cleanup/bands';
import { deBand } from '../src/core/depth/cleanup/deBand';
import { cleanupOf } from '../src/core/depth/cleanup/registry';
import { placeMap } from '../src/core/depth/layers/mapLayer';
import { gaussian } from '../src/core/raster/filters';
import { newPlane, type Picture, type Plane } from '../src/core/picture';
import { samplePlaneNearest, sampleRaster, stretch } from '../src/core/raster/resample';
import { defaultsOf } from '../src/core/values/params';
import { table } from './metrics';
import { demoShot, shotNames } from './truth';

/** Root of the mean squared difference, in thousandths of the range. */
function error(a: Plane, b: Plane): number {
  let s = 0;
  for (let i = 0; i < a.data.length; i++) s += (a.data[i]! - b.data[i]!) ** 2;
  return 1000 * Math.sqrt(s / a.data.length);
}

const cut = (p: Plane, levels: number): Plane => ({ ...p, data: p.data.map((v) => Math.round(v * (levels - 1)) / (levels - 1)) });

async function asJpeg(p: Plane, quality: number): Promise<Plane> {
  const bytes = Buffer.from(Uint8Array.from(p.data, (v) => Math.round(255 * v)));
  const jpeg = await sharp(bytes, { raw: { width: p.width, height: p.height, channels: 1 } })
    .jpeg({ quality })
    .toBuffer();
  const { data } = await sharp(jpeg).extractChannel(0).raw().toBuffer({ resolveWithObject: true });
  return { ...p, data: Float32Array.from(data, (v) => v / 255) };
}

/** Mean of the absolute difference, in thousandths of the range. */
const meanError = (a: Plane, b: Plane): number => (1000 * a.data.reduce((s, v, i) => s + Math.abs(v - b.data[i]!), 0)) / a.data.length;

/** A map as it comes from a smaller file: brought to the plate along its edges, as an imported layer is. */
function fromSmaller(p: Plane, picture: Picture, levels: number | null, mends = false): Plane {
  const size = { width: p.width >> 1, height: p.height >> 1 };
  const small = samplePlaneNearest(p, stretch(p, size.width, size.height), size.width, size.height);
  const whole = { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 };
  const place = {
    width: p.width,
    height: p.height,
    framing: whole,
    plateSize: p,
    picture,
    ...(mends ? { mend: (m: Plane) => deBand.mend!(m, defaultsOf(deBand.params), (v) => v) } : {}),
  };
  return placeMap(levels === null ? small : cut(small, levels), place, { turnOver: false, low: 0, high: 100 });
}

/** Some holes: round ones and a grid of single pixels. */
function holed(p: Plane): Plane {
  const out = { ...p, data: p.data.slice() };
  for (let i = 0; i < out.data.length; i++) {
    const [x, y] = [i % p.width, Math.floor(i / p.width)];
    const [u, v] = [(x % 160) - 80, (y % 160) - 80];
    if (u * u + v * v < 14 * 14 || (x % 40 === 7 && y % 40 === 11)) out.data[i] = NaN;
  }
  return out;
}

/** The clean-up steps on maps that were made worse: error against the exact map, and each step's own measure, before and after. */
export async function cleanupTable(): Promise<Record<string, number>> {
  const rows: string[][] = [];
  const results: Record<string, number> = {};
  for (const name of shotNames) {
    const { raster, distance } = await demoShot(name);
    const { width, height } = distance;
    const picture = sampleRaster(raster, stretch(raster, width, height), width, height);
    const nearest = distance.data.reduce((a, b) => Math.min(a, b), Infinity);
    const exact = newPlane(width, height);
    for (let i = 0; i < exact.data.length; i++) exact.data[i] = nearest / distance.data[i]!;
    const inputs: [string, string, Plane, Record<string, number>][] = [
      ['8 bits', 'de-band', cut(exact, 256), {}],
      ['64 greys', 'de-band', cut(exact, 64), {}],
      ['JPEG 85', 'de-band', await asJpeg(exact, 85), { levels: 256 }],
      ['half size, 64 greys', 'de-band', fromSmaller(exact, picture, 64), {}],
      ['half size', 'edge-care', fromSmaller(exact, picture, null), {}],
      ['blurred by 3 px', 'edge-care', gaussian(exact, 3), {}],
      ['holes', 'fill-holes', holed(exact), {}],
      ['JPEG 85', 'smooth', await asJpeg(exact, 85), {}],
    ];
    for (const [made, kind, before, values] of inputs) {
      const step = cleanupOf(kind);
      const started = performance.now();
      const mends = kind === 'de-band' && made.startsWith('half');
      const map = mends ? fromSmaller(exact, picture, 64, true) : before;
      const after = step.apply({ map, picture, enlarged: mends, params: { ...defaultsOf(step.params), ...values }, pxScale: 1 });
      const ms = performance.now() - started;
      const known = { ...before, data: before.data.map((v, i) => (v === v ? v : exact.data[i]! * 0)) };
      const measure = (p: Plane): string =>
        kind === 'de-band'
          ? `bands ${(100 * bandShare(p, before)).toFixed(0)} %`
          : kind === 'edge-care'
            ? `edges off ${edgeDistance(p, picture)?.toFixed(2) ?? '–'} px`
            : '';
      const [e0, e1] = [error(known, exact), error(after, exact)];
      results[`${name} ${made} ${kind} before`] = e0;
      results[`${name} ${made} ${kind} after`] = e1;
      results[`${name} ${made} ${kind} mean after`] = meanError(after, exact);
      rows.push([
        name,
        made,
        step.label,
        e0.toFixed(2),
        e1.toFixed(2),
        meanError(known, exact).toFixed(2),
        meanError(after, exact).toFixed(2),
        measure(before),
        measure(after),
        ms.toFixed(0),
      ]);
    }
  }
  console.log(
    `\nClean-up: error against the exact map, thousandths of the range\n${table(['shot', 'map', 'step', 'rms before', 'after', 'mean before', 'after', '', '', 'ms'], rows)}`,
  );
  return results;
}
