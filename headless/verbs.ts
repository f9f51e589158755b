import { basename } from 'node:path';
import { describeError, OmbrageError } from '../src/core/error';
import { effectDefaults } from '../src/core/effects/definition';
import { effectOf } from '../src/core/effects/registry';
import { enlargeEstimate, estimateDepth, type Quality } from '../src/core/estimate/estimate';
import { focalLengthOfHfov, focalPx } from '../src/core/optics';
import type { Picture, Plane, Raster } from '../src/core/raster/picture';
import { checkRenderable, finishedPicture } from '../src/core/shot/chain';
import type { StageCache } from '../src/core/shot/stage';
import { readSetting } from '../src/core/values/params';
import { inspectStill } from '../src/formats/inspect';
import { unpackProject } from '../src/formats/projectFile';
import { checkOutput, decodeStill, rasterToPlane, readBytes, readDistance, readPicture, writeMap, writePicture } from './stills';

const PICTURE_ENDINGS = ['.png', '.pfm', '.jpg', '.jpeg', '.webp'];
const MAP_ENDINGS = ['.png', '.pfm'];

/** `inspect FILE`: what a file is, a line each. */
export async function inspect(path: string): Promise<string> {
  const bytes = readBytes(path);
  if (path.toLowerCase().endsWith('.ombrage')) {
    const { project, media } = await unpackProject(bytes, basename(path));
    const shots = project.shots.map((s, i) => `  ${i + 1}  ${s.name}, ${s.plate.width}x${s.plate.height} px`);
    return [`project: ${project.name}`, `shots: ${project.shots.length}`, ...shots, `media: ${media.size} files`].join('\n');
  }
  const f = await inspectStill(bytes, basename(path));
  return [
    `format: ${f.format}`,
    `size: ${f.width}x${f.height} px`,
    `bits: ${f.bits}`,
    `colour: ${f.colour}${f.animated ? ', animated (its first frame is used)' : ''}`,
    `field of view: ${f.hfovDegrees === null ? 'not in the file' : `${f.hfovDegrees.toFixed(1)}° (${focalLengthOfHfov(f.hfovDegrees).toFixed(0)} mm)`}`,
    `depth inside: ${f.depthInside ?? 'no'}`,
  ].join('\n');
}

/** `estimate PICTURE --quality Q --out MAP`: raw nearness at the picture's size. */
export async function estimate(path: string, options: { quality: string; out: string }): Promise<string> {
  if (options.quality !== 'draft' && options.quality !== 'fine')
    throw new OmbrageError('bad-setting', `"${options.quality}" is no quality.`, 'Give draft or fine.');
  checkOutput(options.out, MAP_ENDINGS);
  const { raster } = await decodeStill(readBytes(path), basename(path));
  const started = performance.now();
  const map = estimateDepth(raster, options.quality as Quality)!;
  const milliseconds = performance.now() - started;
  writeMap(options.out, enlargeEstimate(map, raster));
  return `${options.out}: ${raster.width}x${raster.height} px, estimated in ${milliseconds.toFixed(0)} ms`;
}

/** `apply EFFECT …`: one effect on a linear picture and a plane of distances in metres. */
export async function apply(kind: string, options: { picture: string; distance: string; hfov: string; set: string[]; out: string }): Promise<string> {
  const effect = effectOf(kind);
  checkOutput(options.out, PICTURE_ENDINGS);
  const params = effectDefaults(effect);
  for (const setting of options.set) {
    const equals = setting.indexOf('=');
    if (equals < 1) throw new OmbrageError('bad-setting', `"${setting}" is no setting.`, 'Write NAME=VALUE.');
    params[setting.slice(0, equals)] = readSetting(effect.params, setting.slice(0, equals), setting.slice(equals + 1));
  }
  const hfov = Number(options.hfov);
  if (!(hfov >= 1 && hfov <= 170)) throw new OmbrageError('bad-setting', `"${options.hfov}" is no field of view.`, 'Give degrees from 1 to 170.');
  const picture = await readPicture(options.picture);
  const distance = readDistance(options.distance);
  if (picture.width !== distance.width || picture.height !== distance.height)
    throw new OmbrageError(
      'sizes-differ',
      `The picture is ${picture.width}x${picture.height} px and the distances are ${distance.width}x${distance.height} px.`,
      'Give both at the same size.',
    );
  const bad = distance.data.findIndex((z) => !(z > 0));
  if (bad >= 0)
    throw new OmbrageError(
      'bad-distance',
      `${basename(options.distance)} holds ${distance.data[bad]} m at column ${bad % distance.width}, row ${Math.floor(bad / distance.width)}.`,
      'Distances must be above 0 m; infinity is allowed.',
    );
  const lens = { focalPx: focalPx(picture.width, hfov), focalLength: focalLengthOfHfov(hfov) };
  const out = await effect.apply({ picture, distance, params: params as never, lens, pxScale: 1, frame: 0 });
  await writePicture(options.out, out);
  return `${options.out}: ${out.width}x${out.height} px`;
}

/** `render PROJECT --shot N --frame N --out O`: a finished picture of a project file. */
export async function render(path: string, options: { shot: string; frame: string; out: string }): Promise<string> {
  checkOutput(options.out, PICTURE_ENDINGS);
  const { project, media } = await unpackProject(readBytes(path), basename(path));
  const number = Number(options.shot);
  const shot = project.shots[number - 1];
  if (!shot)
    throw new OmbrageError('no-shot', `There is no shot ${options.shot} in ${basename(path)}.`, `Give a number from 1 to ${project.shots.length}.`);
  const frame = Number(options.frame);
  if (!Number.isInteger(frame)) throw new OmbrageError('bad-setting', `"${options.frame}" is no frame.`, 'Give a whole number.');
  const { width, height } = shot.settings.framing;
  checkRenderable({ width, height });
  const { raster } = await decodeStill(media.get(shot.plate.sha256)!, shot.plate.name);
  const maps = new Map<string, { key: string; plane: Plane }>();
  for (const layer of shot.settings.layers) maps.set(layer.id, { key: layer.id, plane: await mapOf(layer, raster, media) });
  const kept = new Map<string, Picture | Plane>();
  const cache: StageCache = { get: (key) => kept.get(key), set: (key, value) => void kept.set(key, value) };
  const request = { plate: shot.plate, settings: shot.settings, frame, size: { width, height } };
  const { value } = await finishedPicture(request, {
    plateRaster: () => raster,
    layerMap: (layer) => maps.get(layer.id) ?? null,
    cache,
    shared: false,
  });
  await writePicture(options.out, value);
  return `${options.out}: ${width}x${height} px`;
}

async function mapOf(
  layer: { kind: string; values: Record<string, unknown>; media?: { sha256: string; name: string } | undefined },
  plate: Raster,
  media: ReadonlyMap<string, Uint8Array>,
): Promise<Plane> {
  if (!layer.media) return estimateDepth(plate, layer.values.quality === 'draft' ? 'draft' : 'fine')!;
  const { raster } = await decodeStill(media.get(layer.media.sha256)!, layer.media.name, false);
  return rasterToPlane(raster);
}

/** One line for standard error. */
export const errorLine = (error: unknown): string => `error: ${describeError(error).replace(/\s*\n\s*/g, ' ')}`;
