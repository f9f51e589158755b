import { readBytes } from './readBytes';
import { namedQuality, OWN_QUALITY, QUICKEST } from '../src/core/need/estimators';
import './kernels';
import { basename } from 'node:path';
import { layPlate } from '../src/core/camera/behind';
import { firmDistances } from '../src/core/camera/firmEdges';
import { plateLens, poseOf } from '../src/core/camera/pose';
import { survey } from '../src/core/camera/relief';
import { isPlate, extentOf, viewFrom } from '../src/core/camera/view';
import { distanceOf } from '../src/core/depth/calibrate';
import { placeMap, type Fit } from '../src/core/depth/layers/mapLayer';
import { OmbrageError } from '../src/core/error';
import { enlargeEstimate, estimateDepth } from '../src/core/estimate/estimate';
import { matteColours, refinedMatte } from '../src/core/matte/matte';
import type { Picture, Plane } from '../src/core/picture';
import { runAlone } from '../src/core/run';
import { pushPull } from '../src/core/raster/pushPull';
import { sampleRaster, stretch } from '../src/core/raster/resample';

import { jpegWithDepth } from '../src/formats/jpeg/depthPhoto';
import { mapAsNearness, readMapFile } from '../src/formats/maps/mapFile';
import { proposeMap } from '../src/formats/maps/proposal';
import { decodeAny } from './loaders';
import { loadNetwork } from './network';
import { estimated, useFor, type NetworkOptions } from './ownNetwork';
import {
  checkOutput,
  decodeStill,
  encodeJpeg,
  MAP_ENDINGS,
  PICTURE_ENDINGS,
  readDistance,
  readPicture,
  writeMap,
  writePicture,
  writeBytes,
} from './stills';

/** `estimate PICTURE (--quality Q | --network FILE) --out MAP`: raw nearness at the picture's size. */
export async function estimate(path: string, options: NetworkOptions & { quality: string; out: string }): Promise<string> {
  const quality = options.network === undefined ? namedQuality(options.quality) : OWN_QUALITY;
  checkOutput(options.out, MAP_ENDINGS);
  const { raster } = await decodeStill(readBytes(path), basename(path));
  const own = options.network === undefined ? null : await useFor(raster, options.network, options);
  loadNetwork();
  const started = performance.now();
  const map = await estimated(raster, { quality, ...(own && { network: own.use }) });
  const milliseconds = performance.now() - started;
  writeMap(options.out, enlargeEstimate(map, raster));
  return `${options.out}: ${raster.width}x${raster.height} px, estimated in ${milliseconds.toFixed(0)} ms${own ? `\n${own.use.name}: ${own.said}` : ''}`;
}

export function fieldOfView(text: string): number {
  const hfov = Number(text);
  if (!(hfov >= 1 && hfov <= 170)) throw new OmbrageError('bad-setting', `"${text}" is no field of view.`, 'Give degrees from 1 to 170.');
  return hfov;
}

/** A picture and the distances that belong to it, pixel for pixel. Throws OmbrageError that names the file. */
export async function readPair(picturePath: string, distancePath: string): Promise<{ picture: Picture; distance: Plane }> {
  const picture = await readPicture(picturePath);
  const distance = readDistance(distancePath);
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
      `${basename(distancePath)} holds ${distance.data[bad]} m at column ${bad % distance.width}, row ${Math.floor(bad / distance.width)}.`,
      'Distances must be above 0 m; infinity is allowed.',
    );
  return { picture, distance };
}

interface MatteOptions {
  readonly picture: string;
  readonly distance: string;
  readonly hfov: string;
  readonly from: string;
  readonly to: string;
  readonly out: string;
  readonly colours?: string;
}

/** `matte …`: coverage 0..1 of what lies between two distances, cleaned along the picture's edges, and its premultiplied colours. */
export async function matte(options: MatteOptions): Promise<string> {
  checkOutput(options.out, MAP_ENDINGS);
  if (options.colours !== undefined) checkOutput(options.colours, ['.pfm']);
  fieldOfView(options.hfov);
  const end = (name: 'from' | 'to'): number => {
    const text = options[name];
    const v = /^(∞|inf|infinity)$/i.test(text) ? Infinity : Number(text);
    if (!(v >= 0)) throw new OmbrageError('bad-setting', `"${text}" is no distance for --${name}.`, 'Give metres from 0 on, or inf.');
    return v;
  };
  const [from, to] = [end('from'), end('to')];
  if (!(to > from)) throw new OmbrageError('bad-setting', `--to (${to} m) is not beyond --from (${from} m).`, 'Give metres, the nearer first.');
  const { picture, distance } = await readPair(options.picture, options.distance);
  const found = refinedMatte(picture, distance, { from, to, near: 0, far: 0 });
  writeMap(options.out, found);
  if (options.colours !== undefined) await writePicture(options.colours, matteColours(picture, found));
  const covered = found.data.reduce((a, b) => a + b, 0) / found.data.length;
  return `${options.out}: ${found.width}x${found.height} px, ${(100 * covered).toFixed(1)} % covered`;
}

interface ViewOptions {
  readonly picture: string;
  readonly distance: string;
  readonly hfov: string;
  readonly at: string;
  readonly out: string;
  readonly depth?: string;
}

/** `view …`: a picture seen from elsewhere. Metres: x right, y down, z forward; degrees: yaw right, pitch up, roll clockwise. */
export async function view(options: ViewOptions): Promise<string> {
  checkOutput(options.out, PICTURE_ENDINGS);
  if (options.depth !== undefined) checkOutput(options.depth, MAP_ENDINGS);
  const hfov = fieldOfView(options.hfov);
  const numbers = options.at.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  if (numbers.length < 3 || numbers.length > 6 || numbers.some((v) => !Number.isFinite(v)))
    throw new OmbrageError('bad-setting', `"${options.at}" is no place for --at.`, 'Give X,Y,Z in metres and, if wanted, YAW,PITCH,ROLL in degrees.');
  const [x, y, z, yaw = 0, pitch = 0, roll = 0] = numbers as [number, number, number, number?, number?, number?];
  const rad = Math.PI / 180;
  const pose = poseOf({ x, y, z, yaw: yaw * rad, pitch: pitch * rad, roll: roll * rad });
  const { picture, distance } = await readPair(options.picture, options.distance);
  const { width, height } = picture;
  let seen: { readonly picture: Picture; readonly distance: Plane } = { picture, distance };
  if (!isPlate({ pose, enlarged: 1 })) {
    const lens = plateLens(width, height, hfov);
    const firm = firmDistances(distance, picture);
    const { ends } = survey(firm);
    const views = [{ pose, enlarged: 1 }];
    const plate = layPlate(picture, firm, extentOf(lens, views, ends, 'mirrored', true));
    seen = await viewFrom(runAlone(), plate, lens, views[0]!, true);
  }
  await writePicture(options.out, seen.picture);
  if (options.depth !== undefined) writeMap(options.depth, seen.distance);
  return `${options.out}: ${width}x${height} px`;
}

interface DepthOptions {
  readonly plate: string;
  readonly map: string;
  readonly out: string;
  readonly channel?: string;
  readonly fit?: string;
  readonly turnOver: string;
  readonly near?: string;
  readonly far?: string;
  readonly metres?: boolean;
}

const DEPTH_ENDINGS = [...MAP_ENDINGS, '.jpg', '.jpeg'];

const distanceOption = (name: string, text: string | undefined): number | null => {
  if (text === undefined) return null;
  const v = /^(∞|inf|infinity)$/i.test(text) ? Infinity : Number(text);
  if (!(v > 0)) throw new OmbrageError('bad-setting', `"${text}" is no distance for --${name}.`, 'Give metres above 0.');
  return v;
};

/** `depth --plate P --map M --out D`: a map brought to its plate: near and far found, fitted, enlarged along the picture's edges. */
export async function depth(options: DepthOptions): Promise<string> {
  checkOutput(options.out, DEPTH_ENDINGS);
  const fits = ['stretch', 'fit', 'cover'];
  if (options.fit !== undefined && !fits.includes(options.fit))
    throw new OmbrageError('bad-setting', `"${options.fit}" is no fit.`, `Give one of ${fits.join(', ')}.`);
  if (!['auto', 'yes', 'no'].includes(options.turnOver))
    throw new OmbrageError('bad-setting', `"${options.turnOver}" is no answer for --turn-over.`, 'Give auto, yes or no.');
  const plateBytes = readBytes(options.plate);
  const { raster } = await decodeStill(plateBytes, basename(options.plate));
  const { width, height } = raster;
  const file = await readMapFile(readBytes(options.map), basename(options.map), options.channel ?? null, decodeAny);
  if (options.channel !== undefined && file.facts.channel !== options.channel)
    throw new OmbrageError(
      'no-channel',
      `${basename(options.map)} has no channel "${options.channel}".`,
      `Channels: ${file.facts.channels.join(', ')}.`,
    );
  loadNetwork();
  const proposal = proposeMap(file, raster, estimateDepth(raster, QUICKEST));
  const { plane } = mapAsNearness(file, proposal.reading);
  const picture = sampleRaster(raster, stretch(raster, width, height), width, height);
  const turnOver = options.turnOver === 'auto' ? proposal.turnOver : options.turnOver === 'yes';
  const fit = (options.fit ?? proposal.fit) as Fit;
  const whole = { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 };
  const placed = placeMap(plane, { width, height, framing: whole, plateSize: raster, picture }, { turnOver, low: 0, high: 100, fit });
  const nearness = pushPull(placed);
  const near = distanceOption('near', options.near) ?? proposal.ends?.near ?? 1;
  const far = distanceOption('far', options.far) ?? proposal.ends?.far ?? 30;
  if (!(far > near))
    throw new OmbrageError('bad-setting', `The far end (${far} m) is not beyond the near end (${near} m).`, 'Give --near and --far in metres.');
  const distances = (): Plane => ({ ...nearness, data: nearness.data.map((v) => distanceOf(v, { near, far, spacing: 'perspective' })) });
  const ending = options.out.slice(options.out.lastIndexOf('.')).toLowerCase();
  if (ending === '.jpg' || ending === '.jpeg') {
    writeBytes(options.out, await jpegWithDepth(await encodeJpeg(picture), distances(), { near, far }));
  } else if (options.metres) {
    if (ending === '.png') throw new OmbrageError('bad-output', `${options.out} cannot hold metres.`, 'Give a name that ends in .pfm, .tif or .exr.');
    writeMap(options.out, distances());
  } else writeMap(options.out, nearness);
  const f = file.facts;
  const agreement = proposal.agreement === null ? '' : `, agrees with the estimate by ${proposal.agreement.toFixed(2)}`;
  return [
    `${options.out}: ${width}x${height} px`,
    `map: ${f.format}, ${f.width}x${f.height} px, ${f.bits} bits${f.float ? ' float' : ''}, ${f.channel}, ${f.low.toPrecision(4)} to ${f.high.toPrecision(4)}`,
    `read as: ${proposal.reading === 'distance' ? 'distances' : 'greys'}, ${turnOver ? 'black' : proposal.reading === 'distance' ? 'small' : 'white'} is near (${options.turnOver === 'auto' ? proposal.because : 'as asked'}${agreement}), ${fit}`,
    `ends: ${proposal.ends ? `${proposal.ends.near.toPrecision(4)} to ${proposal.ends.far.toPrecision(4)} m in the file` : 'none in the file'}`,
    ...(f.holes > 0 ? [`holes: ${(100 * f.holes).toFixed(2)} %, filled`] : []),
    ...(f.colourful ? ['note: the map is a colour picture; its brightness was used'] : []),
  ].join('\n');
}
