import type { FileRef } from '../src/core/need/fileRef';
import './kernels';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { contentOf } from '../src/core/depth/definition';
import { layerOf } from '../src/core/depth/layers/registry';
import type { ShapesContent } from '../src/core/depth/layers/shape/content';
import { personsDrawings, type PersonsContent } from '../src/core/depth/layers/persons/content';
import { personsLayer } from '../src/core/depth/layers/persons/persons';
import { loadNetwork } from './network';
import { drawingsOf } from '../src/core/depth/layers/shape/follow';
import type { Layer, Shot } from '../src/core/document/schema';
import { depthSeries, frameAt, needKey, ofClip, type Need } from '../src/core/need/need';
import type { Plane, Raster } from '../src/core/picture';
import type { Held } from '../src/core/shot/stage';
import { clipDepthSpec } from '../src/core/shot/clipLayer';
import { handIn, layerNeeds, neededFor, needsOf } from '../src/core/shot/needs';
import { steadyClip } from '../src/engine/clip/clipDepth';
import { followRegion } from '../src/engine/clip/followRegion';
import type { RegionSpec } from '../src/engine/messages/clipJobs';
import { bringing, FrameMissing } from '../src/engine/held/frameMissing';
import { Bounded } from '../src/core/bounded';
import { levelled } from '../src/formats/maps/packedPlane';
import { nearnessIn } from '../src/media/clipMaps';
import { halved } from '../src/media/halves';
import { decodeMapPicture, openNodeClip, type NodeClip } from './clips';
import { depthOfClip, memoryStore } from './clipVerbs';
import { heldFor, type Media } from './loaders';
import { estimated } from './ownNetwork';

/** So many frames and maps are kept. */
const KEPT = 12;

/** What a shot works with whose plate, or another of its files, is a clip. */
export interface ClipShot {
  readonly held: Held;
  /** Does work that needs what there is of clips at a frame of the shot: it is brought before. */
  withFrames<T>(work: () => Promise<T>, frame: number): Promise<T>;
  close(): void;
}

/** Whether a shot has files that are clips. */
export const hasClips = ({ plate, settings }: Pick<Shot, 'plate' | 'settings'>): boolean =>
  needsOf({ plate, settings: handIn(settings) }).some(ofClip);

/** The region of a layer that is carried through the plate, as far as some frames and those on which it was drawn reach; null where none is. */
function regionSpec({ plate }: Shot, layer: Layer, from: number, to: number): RegionSpec | null {
  const need = layerNeeds(layer, plate).find((n) => n.is === 'kept');
  if (need?.is !== 'kept') return null;
  const content: unknown = contentOf(layerOf(layer.kind), layer.content);
  const drawings = layer.kind === personsLayer.kind ? personsDrawings(content as PersonsContent) : drawingsOf(content as ShapesContent);
  const drawn = drawings.map((d) => d.frame);
  return { of: need.of, series: need.series, drawings, from: Math.min(from, ...drawn), to: Math.max(to, ...drawn) };
}

/** Opens the clips of a shot; depth of the frames that will be asked for is found, carried and made steady first. Throws OmbrageError. */
export async function openClipShot(shot: Shot, media: Media, span: { readonly from: number; readonly to: number }): Promise<ClipShot> {
  const seen = { plate: shot.plate, settings: handIn(shot.settings) };
  const still = await heldFor(
    needsOf(seen).filter((need) => !ofClip(need)),
    media,
  );
  const folder = mkdtempSync(join(tmpdir(), 'ombrage-'));
  const clips = new Map<string, Promise<NodeClip>>();
  const pictureOf = async (ref: FileRef): Promise<NodeClip> => halved(await clipOf(ref), ref.clip?.half);
  const clipOf = (ref: FileRef): Promise<NodeClip> => {
    let clip = clips.get(ref.sha256);
    if (!clip) {
      const path = join(folder, `${ref.sha256}.clip`);
      writeFileSync(path, media.get(ref.sha256) ?? new Uint8Array(0));
      clip = openNodeClip(path);
      clip.then(({ remarks }) => remarks.forEach((r) => void process.stderr.write(`note: ${ref.name}: ${r}\n`))).catch(() => undefined);
      clips.set(ref.sha256, clip);
    }
    return clip;
  };
  const close = (): void => {
    for (const clip of clips.values()) clip.then((c) => c.close()).catch(() => undefined);
    rmSync(folder, { recursive: true, force: true });
  };
  const store = memoryStore();
  const mapAt = async (need: Extract<Need, { is: 'map' }>): Promise<Plane> => nearnessIn(await clipOf(need.ref), need, decodeMapPicture);
  const rasters = new Bounded<Raster>({ limit: KEPT });
  const planes = new Bounded<Plane | null>({ limit: KEPT });
  const bring = async (need: Need): Promise<void> => {
    switch (need.is) {
      case 'raster':
        rasters.set(needKey(need), await (await pictureOf(need.ref)).frame(need.frame));
        return;
      case 'map':
        planes.set(needKey(need), (need.steady && (await store.keptFrame(need.steady.series, need.steady.at))) || (await mapAt(need)));
        return;
      case 'kept':
        planes.set(needKey(need), await store.keptFrame(need.series, need.frame));
        return;
      case 'estimate': {
        const kept = await store.keptFrame(depthSeries(need), need.frame);
        planes.set(needKey(need), kept ?? levelled(await estimated(await (await pictureOf(need.of)).frame(need.frame), need)));
      }
    }
  };
  try {
    const at = (frame: number): number => frameAt(shot.plate, { frame, fps: shot.settings.time.fps });
    for (const layer of seen.settings.layers) {
      const region = regionSpec(shot, layer, at(span.from), Math.max(at(span.from), at(span.to)));
      if (region) {
        loadNetwork();
        await followRegion(region, await pictureOf(shot.plate), store, () => undefined);
      }
      const whole = clipDepthSpec(shot.plate, layer);
      if (!whole || whole.steady === 0 || span.to === span.from) continue;
      const spec = { ...whole, from: at(span.from), to: Math.max(at(span.from), at(span.to)) };
      const clip = await pictureOf(shot.plate);
      const full = await depthOfClip(clip, spec, store, (text) => void process.stderr.write(`${text}\n`));
      await steadyClip(full, { clip, mapAt }, store, () => undefined);
    }
  } catch (error) {
    close();
    throw error;
  }
  const held: Held = {
    raster: (need) => {
      if (!ofClip(need)) return still.raster(need);
      const found = rasters.get(needKey(need));
      if (!found) throw new FrameMissing(need);
      return need.opaque ? { ...found, opaque: true } : found;
    },
    plane: (need) => {
      if (!ofClip(need)) return still.plane(need);
      const found = planes.get(needKey(need));
      if (found === undefined) throw new FrameMissing(need);
      return found && { key: needKey(need), plane: found };
    },
  };
  const withFrames = async <T>(work: () => Promise<T>, frame: number): Promise<T> => {
    const needed = neededFor(shot, { frame, fps: shot.settings.time.fps }).filter(ofClip);
    const missing = needed.filter((need) => !(need.is === 'raster' ? rasters : planes).has(needKey(need)));
    const ends = [rasters.begin(), planes.begin()];
    try {
      return await bringing(bring, work, missing);
    } finally {
      for (const end of ends) end();
    }
  };
  return { held, withFrames, close };
}
