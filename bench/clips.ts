import { exactDistance } from '../demo/clipFrames';
import { BEND } from '../demo/movingClip';
import { crossing } from '../demo/scenes/crossing';
import { openNodeClip } from '../headless/clips';
import { loadNetwork } from '../headless/network';
import { estimateDepth } from '../src/core/estimate/estimate';
import { orderScore } from '../src/core/estimate/score';
import { fitPair } from '../src/core/motion/align';
import { findCuts, frameSign } from '../src/core/motion/cuts';
import { flickersOf, meanFlicker } from '../src/core/motion/flicker';
import { denseFlow, pyramid, warp } from '../src/core/motion/flow';
import { carryRegion, colourOdds } from '../src/core/motion/follow';
import { fromKeys } from '../src/core/motion/keyMaps';
import { linksOf, type Links } from '../src/core/motion/links';
import { keyFrames } from '../src/core/motion/plan';
import { steadyMaps } from '../src/core/motion/steady';
import { motionView, type MotionView } from '../src/core/motion/view';
import { OmbrageError } from '../src/core/error';
import type { Picture, Plane } from '../src/core/picture';
import { deBand } from '../src/core/depth/cleanup/deBand';
import { edgeCare } from '../src/core/depth/cleanup/edgeCare';
import { samplePlaneLinear, sampleRaster, stretch } from '../src/core/raster/resample';
import { defaultsOf } from '../src/core/values/params';
import { mapAsNearness, mapOfRaster } from '../src/formats/maps/mapFile';
import { fastest, table } from './metrics';

/** Frames of shot 04 that are judged: the deckhand walks through the middle of the picture. */
const FIRST = 26;
const COUNT = 24;
/** A map is judged where the deckhand's outline passed within so many frames. */
const SWEPT = 2;

interface Truth {
  readonly distance: Plane;
  readonly nearness: Plane;
  /** 1 where the deckhand is seen */
  readonly mover: Uint8Array;
}

/** The exact distances of a frame, and where its deckhand is: by one ray through the middle of each pixel. */
function truthAt(frame: number, { width, height }: MotionView): Truth {
  const trace = (manned: boolean): Plane => ({ width, height, data: exactDistance(frame, width, height, manned) });
  const distance = trace(true);
  const empty = trace(false);
  const { near, far } = crossing(frame).ends;
  const nearness = { ...distance, data: distance.data.map((z) => Math.max(0, (1 / z - 1 / far) / (1 / near - 1 / far))) };
  return { distance, nearness, mover: Uint8Array.from(distance.data, (z, i) => (z < 0.98 * empty.data[i]! ? 1 : 0)) };
}

/** A map brought to the truth's levels. */
function fitted(map: Plane, truth: Plane): Float32Array {
  const { scale, meanX, meanY } = fitPair(map.data, truth.data);
  return map.data.map((v) => scale * (v - meanX) + meanY);
}

/** All maps of a clip brought to the truth's levels by one scale and shift: jumps of single frames stay errors. */
function fittedTogether(maps: readonly Plane[], truth: readonly Truth[]): readonly Float32Array[] {
  const SPARSE = 7;
  const some = (planes: readonly Plane[]): Float32Array => Float32Array.from(planes.flatMap((p) => [...p.data.filter((_, i) => i % SPARSE === 0)]));
  const { scale, meanX, meanY } = fitPair(some(maps), some(truth.map((t) => t.nearness)));
  return maps.map((map) => map.data.map((v) => scale * (v - meanX) + meanY));
}

interface Scores {
  readonly flicker: number;
  readonly order: number;
  /** mean errors: around the deckhand and everywhere, each frame at its best levels; and with one pair of levels for all frames */
  readonly swept: number;
  readonly whole: number;
  readonly together: number;
}

function scoresOf(maps: readonly Plane[], truth: readonly Truth[], links: Links): Scores {
  let [order, swept, sweptCount, whole, count] = [0, 0, 0, 0, 0];
  for (const [t, map] of maps.entries()) {
    const { distance, nearness, mover } = truth[t]!;
    const found = fitted(map, nearness);
    order += orderScore(map, distance) / maps.length;
    const around = truth.slice(Math.max(0, t - SWEPT), t + SWEPT + 1);
    for (let i = 0; i < found.length; i++) {
      const off = Math.abs(found[i]! - nearness.data[i]!);
      whole += off;
      count++;
      if (!around.some((s) => s.mover[i] !== mover[i])) continue;
      swept += off;
      sweptCount++;
    }
  }
  const flicker = meanFlicker(flickersOf(maps, links.before));
  let together = 0;
  for (const [t, found] of fittedTogether(maps, truth).entries())
    for (let i = 0; i < found.length; i++) together += Math.abs(found[i]! - truth[t]!.nearness.data[i]!);
  return { flicker, order, swept: swept / Math.max(1, sweptCount), whole: whole / count, together: together / count };
}

/** Greys of the clip of maps as nearness: they are bent. */
const straight = (maps: readonly Plane[]): readonly Plane[] => maps.map((map) => ({ ...map, data: map.data.map((v) => Math.max(0, v) ** BEND) }));

const meanOfFive = (maps: readonly Plane[]): readonly Plane[] =>
  maps.map((map, t) => {
    const around = maps.slice(Math.max(0, t - 2), t + 3);
    return { ...map, data: map.data.map((_, i) => around.reduce((s, m) => s + m.data[i]!, 0) / around.length) };
  });

const overlap = (region: Plane, mover: Uint8Array): number => {
  let [both, either] = [0, 0];
  for (let i = 0; i < mover.length; i++) {
    const on = region.data[i]! > 0.5;
    if (on && mover[i]) both++;
    if (on || mover[i]) either++;
  }
  return both / Math.max(1, either);
};

/** A region drawn on the middle frame, carried both ways; mean overlap with where it is, on the other frames. */
function followScores(views: readonly MotionView[], truth: readonly Truth[], links: Links): Record<string, number> {
  const middle = views.length >> 1;
  const drawn: Plane = { width: views[0]!.width, height: views[0]!.height, data: Float32Array.from(truth[middle]!.mover) };
  const odds = colourOdds(views[middle]!, drawn);
  const sums = { 'static mask': 0, 'flow alone': 0, 'as delivered': 0 };
  for (const step of [1, -1]) {
    let alone = drawn;
    let region = drawn;
    for (let t = middle + step; t >= 0 && t < views.length; t += step) {
      const link = (step > 0 ? links.before : links.next)[t]!;
      alone = { ...alone, data: warp(alone.data, link.flow) };
      region = carryRegion(region, views[t]!, link, odds).region;
      const { mover } = truth[t]!;
      sums['static mask'] += overlap(drawn, mover);
      sums['flow alone'] += overlap(alone, mover);
      sums['as delivered'] += overlap(region, mover);
    }
  }
  return Object.fromEntries(Object.entries(sums).map(([name, sum]) => [name, sum / (views.length - 1)]));
}

const print = (head: readonly string[], rows: readonly (readonly string[])[]): void => console.log(table(head, rows));

/** Depth of clips, against exact depth of shot 04: estimates and a damaged clip of maps, single frames, plain means and made steady; a followed region; speed. */
export async function clipTables(): Promise<Record<string, unknown>> {
  let clip;
  let depth;
  try {
    clip = await openNodeClip('public/demo/crossing.webm');
    depth = await openNodeClip('public/demo/crossing.depth.webm');
  } catch (error) {
    if (!(error instanceof OmbrageError)) throw error;
    console.log(`clips: ${error.message} ${error.hint}`);
    return {};
  }
  loadNetwork();
  const views: MotionView[] = [];
  const pictures: Picture[] = [];
  const maps: Record<'draft' | 'fine' | 'imported', Plane[]> = { draft: [], fine: [], imported: [] };
  const truth: Truth[] = [];
  const estimating: Record<string, number> = { draft: 0, fine: 0 };
  for (let k = 0; k < COUNT; k++) {
    const raster = await clip.frame(FIRST + k);
    const view = motionView(raster);
    views.push(view);
    pictures.push(sampleRaster(raster, stretch(raster, view.width, view.height), view.width, view.height));
    truth.push(truthAt(FIRST + k, view));
    const { width, height } = view;
    const sized = (plane: Plane): Plane => samplePlaneLinear(plane, stretch(plane, width, height), width, height);
    for (const quality of ['draft', 'fine'] as const) {
      const started = performance.now();
      maps[quality].push(sized(estimateDepth(raster, quality)!));
      estimating[quality]! += (performance.now() - started) / COUNT;
    }
    maps.imported.push(sized(mapAsNearness(mapOfRaster(await depth.frame(FIRST + k), null), 'grey').plane));
  }
  clip.close();
  depth.close();
  const lumas = views.map((v) => v.luma);
  const links = linksOf(lumas);
  const carried = (list: readonly Plane[], every: number): readonly Plane[] => {
    const keys = new Set(keyFrames({ from: 0, to: COUNT - 1 }, every));
    return fromKeys(
      list.map((m, t) => (keys.has(t) ? m : null)),
      lumas,
      links,
    );
  };
  const steady = (list: readonly Plane[], every = 1, parallax = false): readonly Plane[] =>
    steadyMaps(list, lumas, links, { strength: 70, every, parallax }).maps;
  /** clean-up as it is by default, where depth is banded and its edges lie beside the picture's */
  const mended = (list: readonly Plane[]): readonly Plane[] =>
    list.map((map, t) => {
      const picture = pictures[t]!;
      return [deBand, edgeCare].reduce((m, step) => step.apply({ map: m, picture, params: defaultsOf(step.params) as never, pxScale: 1 }), map);
    });
  const rows: Record<string, readonly Plane[]> = {
    'exact nearness': truth.map((t) => t.nearness),
    'draft, single frames': maps.draft,
    'draft, mean of ±2': meanOfFive(maps.draft),
    'draft, steady': steady(maps.draft),
    'draft, steady, with parallax': steady(maps.draft, 1, true),
    'draft, every 4th, steady': steady(carried(maps.draft, 4), 4),
    'fine, single frames': maps.fine,
    'fine, mean of ±2': meanOfFive(maps.fine),
    'fine, steady': steady(maps.fine),
    'fine, steady, with parallax': steady(maps.fine, 1, true),
    'fine, every 2nd, steady': steady(carried(maps.fine, 2), 2),
    'clip of maps, as it is': straight(maps.imported),
    'clip of maps, mean of ±2': straight(meanOfFive(maps.imported)),
    'clip of maps, steady': straight(steady(maps.imported)),
    'clip of maps, steady, mended': straight(mended(steady(maps.imported))),
  };
  const scores = Object.fromEntries(Object.entries(rows).map(([name, list]) => [name, scoresOf(list, truth, links)]));
  const milli = (v: number): string => (1000 * v).toFixed(1);
  console.log(`\n${`Depth of clips: shot 04, ${COUNT} frames at ${views[0]!.width}×${views[0]!.height} (nearness, thousandths)`}\n`);
  print(
    ['', 'flicker', 'order', 'where the deckhand passed', 'each frame at its levels', 'all at one'],
    Object.entries(scores).map(([name, s]) => [name, milli(s.flicker), s.order.toFixed(3), milli(s.swept), milli(s.whole), milli(s.together)]),
  );
  const follow = followScores(views, truth, links);
  console.log(`\n${'A region drawn on one frame and carried both ways'}\n`);
  print(
    ['', 'mean overlap'],
    Object.entries(follow).map(([name, v]) => [name, v.toFixed(3)]),
  );
  const [a, b] = [pyramid(lumas[0]!), pyramid(lumas[1]!)];
  const speed = {
    'flow, one way': await fastest(() => void denseFlow(a, b)),
    'steady, a frame': (await fastest(() => void steadyMaps(maps.draft.slice(0, 6), lumas.slice(0, 6), links, { strength: 70 }), 3)) / 6,
    'carried over 4, a frame': (await fastest(() => void carried(maps.draft, 4), 2)) / COUNT,
    'draft estimate': estimating.draft!,
    'fine estimate': estimating.fine!,
  };
  console.log(`\n${'Speed at that size, ms on one core'}\n`);
  print(
    ['', 'ms'],
    Object.entries(speed).map(([name, v]) => [name, v.toFixed(0)]),
  );
  const cuts = findCuts(views.map(frameSign));
  console.log(`cuts found in ${COUNT} frames of one scene: ${cuts.length}`);
  return { scores, follow, speed, cuts: cuts.length };
}
