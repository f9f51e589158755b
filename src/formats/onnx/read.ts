import { PbfReader } from 'pbf';
import { OmbrageError } from '../../core/error';

/** Something that goes into a network or comes out of it; a side that is not fixed has its name, or is null. */
export interface OnnxPort {
  readonly name: string;
  /** number of the element's type, as ONNX counts them */
  readonly type: number;
  readonly dims: readonly (number | string | null)[];
}

export interface OnnxNode {
  readonly op: string;
  readonly inputs: readonly string[];
  readonly outputs: readonly string[];
  readonly ints: Readonly<Record<string, readonly number[]>>;
}

/** What a file says of its network, without what it learned. */
export interface OnnxFacts {
  readonly inputs: readonly OnnxPort[];
  readonly outputs: readonly OnnxPort[];
  readonly nodes: readonly OnnxNode[];
  /** notes that whoever wrote it left in it */
  readonly notes: Readonly<Record<string, string>>;
  /** short constants by name: up to so many numbers */
  readonly constants: ReadonlyMap<string, readonly number[]>;
  /** sides of every constant by name */
  readonly shapes: ReadonlyMap<string, readonly number[]>;
  /** some of what it learned lies in another file */
  readonly elsewhere: boolean;
}

const SHORT = 16;
const FLOAT = 1;

interface Found {
  inputs: OnnxPort[];
  outputs: OnnxPort[];
  nodes: OnnxNode[];
  notes: Record<string, string>;
  constants: Map<string, readonly number[]>;
  shapes: Map<string, readonly number[]>;
  elsewhere: boolean;
}

/** Reads a message whose fields are told apart by their numbers (onnx.proto, ONNX 1.17). */
const message = <T>(pbf: PbfReader, into: T, fields: Record<number, (into: T, pbf: PbfReader) => void>): T =>
  pbf.readMessage((tag, result, from) => fields[tag]?.(result, from), into);

const pair = (pbf: PbfReader): { key: string; value: string } =>
  message(pbf, { key: '', value: '' }, { 1: (e, p) => (e.key = p.readString()), 2: (e, p) => (e.value = p.readString()) });

const dimension = (pbf: PbfReader): number | string | null =>
  message<{ is: number | string | null }>(pbf, { is: null }, { 1: (d, p) => (d.is = p.readVarint(true)), 2: (d, p) => (d.is = p.readString()) }).is;

function port(pbf: PbfReader): OnnxPort {
  const found = { name: '', type: 0, dims: [] as (number | string | null)[] };
  const shape = (p: PbfReader): unknown => message(p, found, { 1: (f, d) => f.dims.push(dimension(d)) });
  const tensor = (p: PbfReader): unknown => message(p, found, { 1: (f, d) => (f.type = d.readVarint()), 2: (_, d) => void shape(d) });
  return message(pbf, found, {
    1: (f, p) => (f.name = p.readString()),
    2: (_, p) => void message(p, found, { 1: (_f, d) => void tensor(d) }),
  });
}

/** Sides of a constant, and its numbers where they are few. */
function constant(pbf: PbfReader, into: Found, named?: string): void {
  const found = { dims: [] as number[], type: 0, name: named ?? '', floats: [] as number[], raw: null as Uint8Array | null, elsewhere: false };
  message(pbf, found, {
    1: (f, p) => void p.readPackedVarint(f.dims, true),
    2: (f, p) => (f.type = p.readVarint()),
    4: (f, p) => void p.readPackedFloat(f.floats),
    8: (f, p) => (f.name = named ?? p.readString()),
    9: (f, p) => (f.raw = p.readBytes()),
    14: (f, p) => (f.elsewhere = p.readVarint() === 1),
  });
  into.shapes.set(found.name, found.dims);
  into.elsewhere ||= found.elsewhere;
  const count = found.dims.reduce((n, d) => n * d, 1);
  if (found.type !== FLOAT || count > SHORT) return;
  const { raw } = found;
  const view = raw && new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
  into.constants.set(found.name, view ? Array.from({ length: view.byteLength >> 2 }, (_, i) => view.getFloat32(i * 4, true)) : found.floats);
}

function node(pbf: PbfReader, into: Found): OnnxNode {
  const found = { op: '', inputs: [] as string[], outputs: [] as string[], ints: {} as Record<string, number[]> };
  const attribute = (p: PbfReader): void => {
    const read = { name: '', ints: [] as number[] };
    message(p, read, {
      1: (a, d) => (a.name = d.readString()),
      3: (a, d) => a.ints.push(d.readVarint(true)),
      // a constant that stands in the graph
      5: (_, d) => constant(d, into, found.outputs[0]),
      8: (a, d) => void d.readPackedVarint(a.ints, true),
    });
    found.ints[read.name] = read.ints;
  };
  return message(pbf, found, {
    1: (f, p) => f.inputs.push(p.readString()),
    2: (f, p) => f.outputs.push(p.readString()),
    4: (f, p) => (f.op = p.readString()),
    5: (_, p) => attribute(p),
  });
}

const graph = (pbf: PbfReader, into: Found): unknown =>
  message(pbf, into, {
    1: (g, p) => g.nodes.push(node(p, into)),
    5: (_, p) => constant(p, into),
    11: (g, p) => g.inputs.push(port(p)),
    12: (g, p) => g.outputs.push(port(p)),
  });

/** Reads what an ONNX file says of its network. Throws OmbrageError that names the file where it is none, or is cut off. */
export function readOnnx(bytes: Uint8Array, name: string): OnnxFacts {
  const found: Found = { inputs: [], outputs: [], nodes: [], notes: {}, constants: new Map(), shapes: new Map(), elsewhere: false };
  const none = new OmbrageError('not-a-network', `${name} is no network in ONNX form, or it is damaged.`, 'Choose an undamaged .onnx file.');
  try {
    new PbfReader(bytes).readFields((tag, into: Found, pbf) => {
      if (tag === 7) {
        const { pos } = pbf;
        // a file that was cut ends within it
        if (pbf.readVarint() + pbf.pos > bytes.length) throw none;
        pbf.pos = pos;
        graph(pbf, into);
      } else if (tag === 14) {
        const { key, value } = pair(pbf);
        into.notes[key] = value;
      }
    }, found);
  } catch {
    throw none;
  }
  if (found.nodes.length === 0 || found.outputs.length === 0) throw none;
  // older files list what was learned among the inputs
  return { ...found, inputs: found.inputs.filter((input) => !found.shapes.has(input.name)) };
}
