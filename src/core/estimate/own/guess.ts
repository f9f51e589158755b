import { OmbrageError } from '../../error';
import { givenDepths, networkUseSchema, valueScales, type GivenDepth, type NetworkUse, type ValueScale } from '../../need/networkUse';
import type { Plane } from '../../picture';
import { rankCorrelation } from '../score';
import { hasZero } from './own';

/** Something that goes into a network or comes out of it, by the sides of its data; a side that is not fixed has a name, or is null. */
export interface Port {
  readonly name: string;
  readonly type: string;
  readonly dims: readonly (number | string | null)[];
}

/** What is known of a network from its file. */
export interface NetworkFacts {
  readonly inputs: readonly Port[];
  readonly outputs: readonly Port[];
  /** notes in the file */
  readonly notes: Readonly<Record<string, string>>;
  /** numbers, three each, that a picture meets before all else */
  readonly first: readonly (readonly number[])[];
  /** size and step of the first convolution, px */
  readonly patch: { readonly size: number; readonly step: number } | null;
}

/** How a network is asked as far as its file tells; `told`: what it tells for sure. */
export interface FoundUse {
  readonly use: NetworkUse;
  readonly told: { readonly values: boolean; readonly gives: boolean };
}

/** Sides, px, of pictures that networks without a size of their own were made for: by patches, or by halving. */
const PATCH_SIDE = 518;
const USUAL_SIDE = 384;
const USUAL_MULTIPLE = 32;
const MOST_SIDE = 8192;

const open = (side: number | string | null | undefined): boolean => typeof side !== 'number' || side < 1;

const refused = (name: string, what: string): OmbrageError =>
  new OmbrageError('wrong-network', `${name} ${what}.`, 'Choose a network that takes one colour picture and gives one plane of depth.');

/** How many dimensions lie before those of the picture, and in what order these are. */
function layoutOf(
  name: string,
  { dims }: Port,
): Pick<NetworkUse, 'layout' | 'leading'> & { readonly height: Port['dims'][0]; readonly width: Port['dims'][0] } {
  const at = dims.length - 3;
  if (at < 0 || at > 4) throw refused(name, `takes an input of ${dims.length} dimensions`);
  if (dims.slice(0, at).some((d) => !open(d) && d !== 1)) throw refused(name, 'takes several pictures at once');
  const [a, b, c] = dims.slice(at);
  if (a === 3) return { layout: 'planes', leading: at, height: b!, width: c! };
  if (c === 3) return { layout: 'pixels', leading: at, height: a!, width: b! };
  if (open(a)) return { layout: 'planes', leading: at, height: b!, width: c! };
  throw refused(name, `takes no picture of three colours but ${dims.join(' x ')}`);
}

const near = (a: readonly number[], b: readonly number[], within: number): boolean => a.every((v, i) => Math.abs(v - b[i]!) <= within);

/** How values are given, where the file or its first steps tell. */
function toldValues({ notes, first }: NetworkFacts): ValueScale | null {
  const noted = valueScales.find((v) => v === notes.values);
  if (noted) return noted;
  // a network that takes the mean of ImageNet away by itself
  if (first.some((c) => near(c, [0.485, 0.456, 0.406], 0.002))) return 'unit';
  if (first.some((c) => near(c, [123.675, 116.28, 103.53], 0.5))) return 'bytes';
  return null;
}

function toldDepth({ notes }: NetworkFacts, output: Port): { readonly is: GivenDepth; readonly sure: boolean } | null {
  const noted = givenDepths.find((v) => v === notes.gives);
  if (noted) return { is: noted, sure: true };
  const said = output.name.toLowerCase();
  if (said.includes('metric')) return { is: 'metres', sure: false };
  return /dispar|inver/.test(said) ? { is: 'nearness', sure: false } : null;
}

/**
 * How a network is asked, as far as its file tells and else as is usual. Throws OmbrageError where it does not take one colour picture, or gives none that could be
 * depth.
 */
export function foundUse(facts: NetworkFacts, { sha256, name }: Pick<NetworkUse, 'sha256' | 'name'>): FoundUse {
  if (facts.inputs.length !== 1) throw refused(name, `asks for ${facts.inputs.length} inputs`);
  const [input] = facts.inputs as [Port];
  const type = (['float32', 'float16', 'uint8'] as const).find((t) => t === input.type);
  if (!type) throw refused(name, `takes numbers of type ${input.type}`);
  const { layout, leading, width, height } = layoutOf(name, input);
  const output = facts.outputs.find((o) => o.dims.length === 0 || (o.dims.length >= 2 && o.dims.filter((d) => open(d) || d !== 1).length >= 2));
  if (!output) throw refused(name, 'gives no plane');
  const fixed = !open(width) && !open(height);
  if (fixed && Math.max(width as number, height as number) > MOST_SIDE) throw refused(name, `takes pictures of ${width} x ${height} px`);
  const { patch } = facts;
  const patches = patch !== null && patch.size === patch.step && patch.size >= 8;
  const multiple = patches ? patch.size : USUAL_MULTIPLE;
  const values = toldValues(facts);
  const gives = toldDepth(facts, output);
  const use: NetworkUse = {
    sha256,
    name,
    input: input.name,
    output: output.name,
    type,
    layout,
    leading,
    size: fixed
      ? { width: width as number, height: height as number }
      : { multiple, side: patches ? Math.round(PATCH_SIDE / multiple) * multiple : USUAL_SIDE },
    values: values ?? (type === 'uint8' ? 'bytes' : 'imagenet'),
    gives: gives?.is ?? 'nearness',
    fromZero: false,
    sharper: false,
  };
  // what a document could not hold is refused before it is asked for
  if (!networkUseSchema.safeParse(use).success) throw refused(name, 'has names or sides that are too long');
  return { use, told: { values: values !== null || type === 'uint8', gives: gives?.sure ?? false } };
}

/**
 * What an answer most likely is, by another estimate of the same picture: nearness where the two go together, distance where they go against each other; and how well its
 * order then goes with that estimate's. What is known stays.
 */
export function guessedDepth(
  answer: Plane,
  estimate: Plane,
  told: GivenDepth,
  sure: boolean,
): Pick<NetworkUse, 'gives' | 'fromZero'> & { readonly agreement: number } {
  const like = rankCorrelation(answer, estimate);
  const gives = sure || told === 'metres' ? told : like < 0 ? 'distance' : 'nearness';
  // turned over or inverted, the order is the same turned over
  return { gives, fromZero: gives === 'distance' && hasZero(answer), agreement: gives === 'nearness' ? like : -like };
}
