import './kernels';
import { basename } from 'node:path';
import { OmbrageError } from '../src/core/error';
import { estimateDepth } from '../src/core/estimate/estimate';
import { foundUse, guessedDepth, type FoundUse } from '../src/core/estimate/own/guess';
import { answerTo, endsOfMetres, ownNearness } from '../src/core/estimate/own/own';
import type { OpenNetwork } from '../src/core/estimate/own/runs';
import { networkOf, QUICKEST, type EstimateBy } from '../src/core/need/estimators';
import { givenDepths, valueScales, type NetworkUse, type ValueScale } from '../src/core/need/networkUse';
import type { Plane, Raster } from '../src/core/picture';
import { sha256 } from '../src/formats/bytes/sha256';
import { checkNetworkSize, networkFacts } from '../src/formats/onnx/facts';
import { openNetwork } from '../src/formats/onnx/session';
import { loadNetwork } from './network';
import { readBytes } from './readBytes';

/** Networks of somebody's own that a command was given, by the hash of their files. */
const given = new Map<string, { readonly bytes: Uint8Array; opened?: Promise<OpenNetwork> }>();

/** Reads a network; answers how it is asked as far as its file tells. Throws OmbrageError that names it. */
export async function giveNetwork(path: string): Promise<FoundUse> {
  const [bytes, name] = [readBytes(path), basename(path)];
  checkNetworkSize(name, bytes.length);
  const found = foundUse(networkFacts(bytes, name), { sha256: await sha256(bytes), name });
  given.set(found.use.sha256, { bytes });
  return found;
}

async function opened({ sha256: hash, name }: NetworkUse): Promise<OpenNetwork> {
  const file = given.get(hash);
  if (!file) throw new OmbrageError('missing-network', `An estimate asks the network ${name}, which was not given.`, 'Give its file by --network.');
  const runtime = await import('onnxruntime-web');
  return (file.opened ??= openNetwork(runtime, file.bytes, name, ['wasm']));
}

/** Depth of a picture, by what ships or by a network that was given; raw nearness 0..1. Throws OmbrageError. */
export async function estimated(raster: Raster, by: EstimateBy): Promise<Plane> {
  const network = networkOf(by);
  if (network) return (await ownNearness(raster, network, await opened(network)))!;
  loadNetwork();
  return estimateDepth(raster, by.quality)!;
}

export interface NetworkOptions {
  readonly network?: string;
  readonly values?: string;
  readonly gives?: string;
  readonly sharper?: boolean;
}

function oneOf<T extends string>(option: string, text: string | undefined, known: readonly T[]): T | null {
  if (text === undefined) return null;
  const found = known.find((k) => k === text);
  if (!found) throw new OmbrageError('bad-setting', `"${text}" is no value for --${option}.`, `Give ${known.join(', ')}.`);
  return found;
}

/** How a network is asked about a picture: as was said, as its file tells, or as goes best with our own draft; and in words how that was found. */
export async function useFor(raster: Raster, path: string, options: NetworkOptions): Promise<{ readonly use: NetworkUse; readonly said: string }> {
  const [values, gives] = [oneOf('values', options.values, valueScales), oneOf('gives', options.gives, givenDepths)];
  const { use, told } = await giveNetwork(path);
  const draft = await estimated(raster, { quality: QUICKEST });
  const ways: readonly ValueScale[] = values ? [values] : told.values ? [use.values] : valueScales;
  let best: { readonly use: NetworkUse; readonly answer: Plane; readonly like: number } | null = null;
  let refused: unknown = null;
  for (const way of ways)
    try {
      const asked = { ...use, values: way, sharper: options.sharper === true };
      const answer = await answerTo(raster, asked, await opened(asked));
      const { agreement, ...is } = guessedDepth(answer, draft, gives ?? use.gives, gives !== null || told.gives);
      if (!best || agreement > best.like) best = { use: { ...asked, ...is }, answer, like: agreement };
    } catch (error) {
      refused = error;
    }
  if (!best) throw refused;
  const ends = best.use.gives === 'metres' ? endsOfMetres(best.answer) : null;
  const how = (asked: unknown, known: boolean): string => (asked ? 'as asked' : known ? 'as its file says' : 'guessed');
  const said = [
    `values ${best.use.values} (${how(values, told.values)})`,
    `gives ${best.use.gives} (${how(gives, told.gives)})`,
    `its order goes with ours by ${(100 * best.like).toFixed(0)} %`,
    ...(ends ? [`near ${ends.near.toPrecision(4)} m, far ${ends.far.toPrecision(4)} m`] : []),
  ].join('; ');
  return { use: ends ? { ...best.use, ends } : best.use, said };
}
