import * as Comlink from 'comlink';
import { calibrationOf } from '../core/document/defaults';
import type { Layer } from '../core/document/schema';
import { nearnessOf, type Calibration } from '../core/depth/calibrate';
import { checks } from '../core/depth/checks/registry';
import type { EffectInput } from '../core/effects/definition';
import { describeError, OmbrageError } from '../core/error';
import { estimateDepth } from '../core/estimate/estimate';
import type { BlurShape } from '../core/kernels/blurShape';
import { blurRows, type RadiusPicture } from '../core/kernels/lensBlurHost';
import { newPlane, type Picture, type Plane, type Raster, type Size } from '../core/raster/picture';
import { fitLongSide, sampleRaster, shrinkPicture, stretch, thinRaster } from '../core/raster/resample';
import { contentKey } from '../core/shot/key';
import { checkRenderable, distanceMap, finishedPicture } from '../core/shot/chain';
import { rawMap } from '../core/shot/depthChain';
import { framedPlate, Stopped, type ChainInputs, type ShotRequest } from '../core/shot/stage';
import { encodePlanePfm } from '../formats/pfm';
import { encodeDepthPng, encodePng } from '../formats/png';
import { sha256 } from '../formats/projectFile';
import { ByteCache } from './byteCache';
import { decodeFile, decodeMapFile } from './decode';
import { Newest } from './newest';
import { depthBitmap, histogram, maskBitmap, pictureBitmap } from './paint';
import type { ChapterThumbs, MapKeys, OutputSpec, PreviewSpec, WorkerApi } from './protocol';

const CACHE_BYTES = 384e6;
const PLATES_HELD = 3;

const plates = new Map<string, Raster>();
const maps = new Map<string, Plane>();
const cache = new ByteCache<Picture | Plane>(CACHE_BYTES);
let helpers: { call: Comlink.Remote<Helper>; busy: () => boolean }[] = [];
let shown: Plane | null = null;
let sent = { plate: '', depth: '', width: 0 };

interface Helper {
  band(picture: RadiusPicture, shape: BlurShape, y0: number, y1: number, out: Float32Array, id: number, newest: Int32Array): boolean;
}

const plateOf = (hash: string): Raster => {
  const raster = plates.get(hash);
  if (!raster) throw new OmbrageError('plate-missing', 'The plate of this shot is not loaded.', 'Reload the page.');
  return raster;
};

/** Rows from which it is worth sharing a blur. */
const ROWS_TO_SHARE = 128;

/** Spreads a blur over this worker and the idle helpers. */
const spreadOver =
  (id: number, newest: Newest): EffectInput<unknown>['spreadBlur'] =>
  async (picture, shape, out) => {
    const free = picture.height < ROWS_TO_SHARE ? [] : helpers.filter((h) => !h.busy());
    const parts = free.length + 1;
    const row = (k: number): number => (k === parts ? picture.height : Math.floor((picture.height * k) / parts / 2) * 2);
    const others = free.map((h, k) => h.call.band(picture, shape, row(k + 1), row(k + 2), out, id, newest.words));
    const own = blurRows(picture, shape, 0, row(1), out, () => newest.is(id));
    const all = await Promise.all(others);
    return own && all.every(Boolean);
  };

function inputsFor(
  request: ShotRequest,
  mapKeys: MapKeys,
  options: { quick: boolean; alone: boolean; progress: (share: number) => boolean; id: number; newest: Newest },
): ChainInputs {
  const raster = plateOf(request.plate.sha256);
  return {
    plateRaster: (step) => (options.quick ? thinRaster(raster, Math.floor(step / 2)) : raster),
    layerMap: (layer: Layer) => {
      const key = mapKeys[layer.id];
      const plane = key === undefined ? undefined : maps.get(key);
      return key !== undefined && plane ? { key, plane } : null;
    },
    cache,
    shared: typeof SharedArrayBuffer !== 'undefined',
    progress: options.progress,
    ...(options.alone ? {} : { spreadBlur: spreadOver(options.id, options.newest) }),
  };
}

async function showStage(
  spec: PreviewSpec,
  size: Size,
  stage: 'quick' | 'full',
  id: number,
  newest: Newest,
  onPart: Parameters<WorkerApi['preview']>[3],
): Promise<void> {
  const started = performance.now();
  const request: ShotRequest = { ...spec.shot, size };
  const progress = (): boolean => newest.is(id);
  const inputs = inputsFor(request, spec.maps, { quick: stage === 'quick', alone: false, progress, id, newest });
  const plate = framedPlate(request, inputs).value;
  const raw = rawMap(request, inputs).value;
  const distance = distanceMap(request, inputs).value;
  const finished = spec.finished ? (await finishedPicture(request, inputs)).value : null;
  if (!progress()) throw new Stopped();
  const calibration = calibrationOf(request.settings.calibration);
  const check = spec.check === null ? null : runCheck(spec.check, raw, distance, calibration);
  const { near, far, low, high, turnOver, bend } = calibration;
  const looks = {
    plate: contentKey(request.plate, request.settings.framing),
    depth: contentKey(
      request.plate,
      request.settings.framing,
      request.settings.layers,
      spec.maps,
      { near, far, low, high, turnOver, bend },
      spec.depthColours,
      calibration.spacing,
    ),
  };
  // what has not changed is not sent again; a quick look does with the sharper one sent before
  const stale = (look: 'plate' | 'depth'): boolean => sent[look] !== looks[look] || (stage === 'full' && sent.width !== size.width);
  const [plateImage, depthImage, finishedImage, marks] = await Promise.all([
    stale('plate') ? pictureBitmap(plate) : null,
    stale('depth') ? depthBitmap(raw, calibration, spec.depthColours) : null,
    finished && pictureBitmap(finished),
    check && maskBitmap(size.width, size.height, (i) => check.marks.data[i]!),
  ]);
  if (!progress()) throw new Stopped();
  shown = distance;
  sent = { ...looks, width: plateImage || depthImage ? size.width : sent.width };
  const part = {
    stage,
    size,
    milliseconds: performance.now() - started,
    plate: plateImage,
    depth: depthImage,
    finished: finishedImage,
    marks,
    figure: check?.figure ?? null,
    raw: raw.data,
    distance: distance.data,
    histogram: histogram(distance, spec.ruler),
  };
  onPart(
    Comlink.transfer(
      part,
      [plateImage, depthImage, finishedImage, marks].filter((b) => b !== null),
    ),
  );
}

function runCheck(kind: string, raw: Plane, distance: Plane, c: Calibration): { marks: Plane; figure: string } | null {
  const check = checks.find((d) => d.kind === kind);
  if (!check) return null;
  const nearness = newPlane(raw.width, raw.height);
  for (let i = 0; i < nearness.data.length; i++) nearness.data[i] = nearnessOf(raw.data[i]!, c);
  return check.run({ raw, nearness, distance, low: c.low, high: c.high });
}

const THUMB = { width: 224, height: 126 };

async function chapterThumbs(spec: PreviewSpec, id: number, newest: Newest): Promise<ChapterThumbs> {
  const size = fitBox(spec.shot.settings.framing, THUMB);
  const request: ShotRequest = { ...spec.shot, size };
  const inputs = inputsFor(request, spec.maps, { quick: true, alone: true, progress: () => newest.is(id), id, newest });
  const calibration = calibrationOf(request.settings.calibration);
  const raw = rawMap(request, inputs).value;
  const plain = { ...calibration, low: 0, high: 1, turnOver: false, bend: 1 };
  return {
    plate: await pictureBitmap(framedPlate(request, inputs).value),
    depth: await depthBitmap(raw, plain, 'grey'),
    calibrate: await depthBitmap(raw, calibration, 'distance'),
    effects: await pictureBitmap((await finishedPicture(request, inputs)).value),
  };
}

const fitBox = (of: Size, box: Size): Size => {
  const scale = Math.min(1, box.width / of.width, box.height / of.height);
  return { width: Math.max(1, Math.round(of.width * scale)), height: Math.max(1, Math.round(of.height * scale)) };
};

async function encodeCanvas(picture: Picture, type: string, quality: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(picture.width, picture.height);
  const bitmap = await pictureBitmap(picture);
  const context = canvas.getContext('2d')!;
  // these formats are shown on white where the picture is see-through
  if (type === 'image/jpeg') {
    context.fillStyle = '#fff';
    context.fillRect(0, 0, canvas.width, canvas.height);
  }
  context.drawImage(bitmap, 0, 0);
  return canvas.convertToBlob({ type, quality });
}

const pngBlob = (bytes: Uint8Array, type = 'image/png'): Blob => new Blob([bytes as Uint8Array<ArrayBuffer>], { type });

async function render(request: ShotRequest, mapKeys: MapKeys, spec: OutputSpec, progress: (share: number) => boolean): Promise<Blob> {
  checkRenderable(request.size);
  const inputs = inputsFor(request, mapKeys, { quick: false, alone: true, progress, id: 0, newest: new Newest() });
  if (spec.kind === 'depth') {
    const calibration = calibrationOf(request.settings.calibration);
    if (spec.format === 'pfm') return pngBlob(encodePlanePfm(distanceMap(request, inputs).value), 'application/octet-stream');
    const raw = rawMap(request, inputs).value;
    return pngBlob(encodeDepthPng({ ...raw, data: raw.data.map((v) => nearnessOf(v, calibration)) }));
  }
  const { value } = await finishedPicture(request, inputs);
  if (!progress(0.95)) throw new Stopped();
  if (spec.format === 'png') return pngBlob(encodePng(value, 8));
  if (spec.format === 'png16') return pngBlob(encodePng(value, 16));
  return encodeCanvas(value, spec.format === 'jpeg' ? 'image/jpeg' : 'image/webp', spec.quality);
}

/** Errors cross to the page as plain data, so that their code and hint survive. */
const guard =
  <A extends unknown[], R>(work: (...args: A) => R | Promise<R>) =>
  async (...args: A): Promise<R> => {
    try {
      return await work(...args);
    } catch (error) {
      if (error instanceof OmbrageError) throw Object.assign(new Error(error.message), { name: `${error.code}|${error.hint}` });
      throw new Error(describeError(error));
    }
  };

const api: WorkerApi = {
  decode: guard(async (file: Blob, name: string) => {
    const { facts, raster, bytes } = await decodeFile(file, name, true);
    return { facts, raster, sha256: await sha256(bytes) };
  }),
  decodeMap: guard(async (file: Blob, name: string) => {
    const { plane, facts, bytes, colourful } = await decodeMapFile(file, name);
    return { plane, facts, sha256: await sha256(bytes), colourful };
  }),
  holdPlate: (hash, raster) => {
    plates.delete(hash);
    plates.set(hash, raster);
    for (const oldest of plates.keys()) if (plates.size > PLATES_HELD) plates.delete(oldest);
  },
  holdMap: (key, plane) => void maps.set(key, plane),
  preview: guard(
    async (
      spec: PreviewSpec,
      id: number,
      words: Int32Array,
      onPart: Parameters<WorkerApi['preview']>[3],
      onThumbs: Parameters<WorkerApi['preview']>[4],
    ) => {
      const newest = new Newest(words);
      if (!newest.is(id)) return false;
      if (spec.fresh) sent = { plate: '', depth: '', width: 0 };
      try {
        if (spec.quick) await showStage(spec, spec.quick, 'quick', id, newest, onPart);
        await showStage(spec, spec.shot.size, 'full', id, newest, onPart);
        const thumbs = await chapterThumbs(spec, id, newest);
        onThumbs(Comlink.transfer(thumbs, Object.values(thumbs) as ImageBitmap[]));
        return true;
      } catch (error) {
        if (error instanceof Stopped) return false;
        throw error;
      }
    },
  ),
  highlight: async (from, to) => {
    const plane = shown;
    if (!plane) return null;
    const bitmap = await maskBitmap(plane.width, plane.height, (i) => {
      const z = plane.data[i]!;
      return z >= from && z <= to ? 0.72 : 0;
    });
    return Comlink.transfer(bitmap, [bitmap]);
  },
  estimate: guard((hash: string, quality: 'draft' | 'fine', id: number, words: Int32Array, report: (share: number) => void) => {
    const newest = new Newest(words);
    return estimateDepth(plateOf(hash), quality, (share) => {
      report(share);
      return newest.is(id);
    });
  }) as unknown as WorkerApi['estimate'],
  output: guard(async (request: ShotRequest, mapKeys: MapKeys, spec: OutputSpec, id: number, words: Int32Array, report: (share: number) => void) => {
    const newest = new Newest(words);
    try {
      return await render(request, mapKeys, spec, (share) => {
        report(share);
        return newest.is(id);
      });
    } catch (error) {
      if (error instanceof Stopped) return null;
      throw error;
    }
  }),
  thumbnail: guard(async (request: ShotRequest, mapKeys: MapKeys) => {
    const inputs = inputsFor(request, mapKeys, { quick: true, alone: true, progress: () => true, id: 0, newest: new Newest() });
    return encodeCanvas((await finishedPicture(request, inputs)).value, 'image/jpeg', 0.85);
  }),
  plateThumbnail: guard(async (hash: string, longSide: number) => {
    const raster = plateOf(hash);
    const size = fitLongSide(raster, longSide);
    const thin = thinRaster(raster, Math.max(1, Math.floor(raster.width / size.width / 3)));
    const small = sampleRaster(thin, stretch(thin, size.width, size.height), size.width, size.height);
    return encodeCanvas(shrinkPicture(small, size.width, size.height), 'image/jpeg', 0.85);
  }),
  meetHelpers: (ports, busy) => {
    helpers = ports.map((port, i) => ({ call: Comlink.wrap<Helper>(port), busy: () => Atomics.load(busy, i) === 1 }));
  },
  lend: (port) => {
    Comlink.expose(
      {
        band: (picture, shape, y0, y1, out, id, words) => {
          const newest = new Newest(words);
          return blurRows(picture, shape, y0, y1, out, () => newest.is(id));
        },
      } satisfies Helper,
      port,
    );
  },
};

Comlink.expose(api);
